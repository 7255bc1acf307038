<script setup lang="ts">
import type { Schemas } from '@/api/client'
import Fig from './Fig.vue'
import StateMark from './StateMark.vue'
import { t } from '@/lib/words'

/** The route, wheel by wheel: strokes, fluid, minutes, refills. */
defineProps<{ view: Schemas['JobBleedView']; counts: Record<string, number>; at: string }>()
defineEmits<{ pick: [string] }>()
</script>

<template>
  <table data-testid="route">
    <thead>
      <tr>
        <th />
        <th>{{ t('ui.wheel_head') }}</th>
        <th>{{ t('ui.strokes') }}</th>
        <th>{{ t('ui.fluid') }}</th>
        <th>{{ t('ui.time') }}</th>
        <th>{{ t('ui.refill_after') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="w in view.plan?.wheels ?? []" :key="w.id" :class="{ at: at === w.id }">
        <td><StateMark :state="view.wheels[w.id]?.done ? 'ok' : 'missing'" /></td>
        <td>
          <button
            type="button"
            class="tap id"
            :aria-pressed="at === w.id"
            :data-testid="'wheel-' + w.id"
            @click="$emit('pick', w.id)"
          >
            {{ w.id }}
          </button>
        </td>
        <td class="fig" :data-testid="'strokes-' + w.id">
          {{ w.strokes ? `${counts[w.id] ?? 0} / ${w.strokes}` : '–' }}
        </td>
        <td><Fig name="cm3" :value="w.volume_cm3" /></td>
        <td class="fig">{{ Math.max(1, Math.round(w.minutes)) }} min</td>
        <td class="fig">{{ w.refills_after_strokes.map((n) => (n === 0 ? t('ui.before') : n)).join(', ') || '–' }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
td {
  vertical-align: middle;
}
.id {
  min-width: 64px;
  font-weight: 600;
}
.at td {
  border-bottom: 4px double var(--ink);
}
</style>
