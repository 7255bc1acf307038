<script setup lang="ts">
import SheetBox from '@/components/SheetBox.vue'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { stepName } from '@/lib/plan'
import { t } from '@/lib/words'

/** A step is said not to be done after all: what rests on it is named, and falls with it where that is so. */
const props = defineProps<{ step: string; steps: Schemas['PlanStep'][]; falls: string[] }>()
const emit = defineEmits<{ leave: []; back: [string[]] }>()
const of = (id: string) => props.steps.find((s) => s.id === id)
const title = computed(() => (of(props.step) ? stepName(of(props.step)!) : ''))
</script>

<template>
  <SheetBox :show="true" :title="title" :width="560" @update:show="emit('leave')">
    <template v-if="falls.length">
      <p>{{ t('ui.falls_with') }}</p>
      <ul>
        <li v-for="id in falls" :key="id">{{ of(id) ? stepName(of(id)!) : id }}</li>
      </ul>
    </template>
    <div class="row">
      <button type="button" class="tap main" data-testid="take-back" @click="emit('back', falls)">
        {{ t(falls.length ? 'ui.take_back_all' : 'ui.undo_step') }}
      </button>
      <button v-if="falls.length" type="button" class="tap" data-testid="take-back-one" @click="emit('back', [])">
        {{ t('ui.only_this') }}
      </button>
      <button type="button" class="tap" @click="emit('leave')">{{ t('ui.keep_it') }}</button>
    </div>
  </SheetBox>
</template>
