<script setup lang="ts">
import type { BleedView } from '@/lib/bleeding'
import { t } from '@/lib/words'

/** The tool's routine: wheel by wheel with the foot pumping, each bled before the next; or by itself with the foot held. */
defineProps<{ view: BleedView }>()
defineEmits<{ wheel: [string] }>()
</script>

<template>
  <div class="wheels">
    <p class="small">{{ t('ui.routine_note') }}</p>
    <button
      v-for="id in Object.keys(view.wheels)"
      :key="id"
      type="button"
      class="tap"
      :aria-pressed="view.routine_wheels.includes(id)"
      :disabled="view.routine_wheels.includes(id)"
      :data-testid="'routine-' + id"
      @click="$emit('wheel', id)"
    >
      {{ t('ui.routine_wheel', { id }) }}
    </button>
  </div>
</template>

<style scoped>
.wheels {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  flex: 1 1 100%;
}
p {
  flex: 1 1 100%;
  margin: 0;
}
</style>
