<script setup lang="ts">
import { computed } from 'vue'
import SheetBox from '@/components/SheetBox.vue'
import type { Schemas } from '@/api/client'
import { stepName } from '@/lib/plan'
import { t } from '@/lib/words'

/** A part came off once more: what lies before it came off too, and is told with it by one tap. */
const props = defineProps<{ off: Schemas['JobCameOff']; steps: Schemas['PlanStep'][] }>()
const emit = defineEmits<{ leave: []; off: [string[]] }>()
const name = (id: string) => {
  const s = props.steps.find((x) => x.id === id)
  return s ? stepName(s) : id
}
const title = computed(() => name(props.off.step))
</script>

<template>
  <SheetBox :show="true" :title="title" :width="560" @update:show="emit('leave')">
    <template v-if="off.also.length">
      <p>{{ t('ui.came_off_too') }}</p>
      <ul>
        <li v-for="id in off.also" :key="id">{{ name(id) }}</li>
      </ul>
    </template>
    <div class="row">
      <button type="button" class="tap main" data-testid="came-off" @click="emit('off', [...off.also, off.step])">
        {{ t('ui.came_off_again') }}
      </button>
      <button type="button" class="tap" @click="emit('leave')">{{ t('ui.keep_it') }}</button>
    </div>
  </SheetBox>
</template>
