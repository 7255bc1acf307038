<script setup lang="ts">
import { computed } from 'vue'
import Fig from '@/components/Fig.vue'
import StateMark from '@/components/StateMark.vue'
import { bleedStepName, type BleedView } from '@/lib/bleeding'
import { figure } from '@/lib/units'
import { t, wheels } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The bleed step by step, with what each wheel takes. A wheel can be taken in hand at any time. */
const props = defineProps<{ view: BleedView; at: string }>()
defineEmits<{ pick: [string] }>()
const session = useSession()
const planned = computed(() => Object.fromEntries((props.view.plan?.wheels ?? []).map((w) => [w.id, w])))
const state = (s: BleedView['steps'][number]) =>
  s.passed ? 'missing' : s.done ? 'ok' : s.wheel && props.view.wheels[s.wheel]?.left ? 'failed' : 'missing'
</script>

<template>
  <div class="scroll" tabindex="0" role="region" :aria-label="t('ui.route')">
    <table data-testid="route">
      <thead>
        <tr>
          <th />
          <th>{{ t('ui.wheel_head') }}</th>
          <th>{{ t('ui.strokes') }}</th>
          <th>{{ t('ui.fluid') }}</th>
          <th>{{ t('ui.old_fluid') }}</th>
          <th>{{ t('ui.time') }}</th>
          <th>{{ t('ui.refill_after') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="s in view.steps"
          :key="s.id"
          :class="{ at: (s.wheel && at === s.wheel && !s.done) || s.id === view.now }"
        >
          <td><StateMark :state="state(s)" /></td>
          <template v-if="s.wheel">
            <td>
              <button
                type="button"
                class="tap id"
                :aria-pressed="at === s.wheel"
                :data-testid="(s.visit ?? 1) > 1 ? `wheel-${s.wheel}-${s.visit}` : 'wheel-' + s.wheel"
                @click="$emit('pick', s.wheel)"
              >
                {{ wheels(s.wheel) }}<template v-if="(s.visit ?? 1) > 1"> {{ s.visit }}</template>
              </button>
            </td>
            <td class="fig" :data-testid="'strokes-' + s.wheel">
              {{
                view.wheels[s.wheel]!.needed
                  ? `${view.wheels[s.wheel]!.strokes} / ${view.wheels[s.wheel]!.needed}`
                  : '–'
              }}
            </td>
            <td><Fig name="cm3" :value="view.wheels[s.wheel]!.cm3 + view.wheels[s.wheel]!.left_cm3" /></td>
            <td class="fig">{{ Math.round(view.wheels[s.wheel]!.old * 100) }} %</td>
            <td class="fig">
              {{ planned[s.wheel] ? Math.max(1, Math.round(planned[s.wheel]!.minutes)) + ' min' : '–' }}
            </td>
            <td class="fig">
              {{
                (planned[s.wheel]?.refills_after_strokes ?? []).map((n) => (n === 0 ? t('ui.before') : n)).join(', ') ||
                (planned[s.wheel]?.refills_after_cm3 ?? [])
                  .map((n) => (n === 0 ? t('ui.before') : figure('cm3', n, session.pref)))
                  .join(', ') ||
                '–'
              }}
            </td>
          </template>
          <td v-else colspan="6">
            {{ bleedStepName(s.id) }}<template v-if="s.passed"> · {{ t('ui.passed_over') }}</template>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
table {
  width: 100%;
}
td {
  vertical-align: middle;
}
.id {
  min-width: 64px;
  font-weight: 600;
}
.at td {
  box-shadow: inset 0 -3px 0 var(--ink);
}
</style>
