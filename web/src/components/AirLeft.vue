<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import Fig from './Fig.vue'
import StateMark from './StateMark.vue'
import { figure } from '@/lib/units'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** What the readings say of the air left: the estimate with its interval, drawn on one scale, and what would tell more. */
const props = defineProps<{ air: Schemas['PedalResult'] }>()
const session = useSession()
const most = computed(() => Math.max(4, (props.air.interval_cm3?.[1] ?? 0) * 1.25))
const x = (cm3: number) => 10 + (cm3 / most.value) * 380
const state = computed(() => ({ air: 'failed', clear: 'ok', cannot_tell: 'unknown' })[props.air.verdict] ?? 'unknown')
const pref = computed(() => (session.pref === 'us' ? 'us' : 'metric'))
</script>

<template>
  <div data-testid="air-left">
    <h3 class="row"><StateMark :state="state" /> {{ t('ui.air_left') }}: {{ t('pedal_verdict.' + air.verdict) }}</h3>
    <template v-if="air.air_cm3 != null && air.interval_cm3">
      <svg viewBox="0 0 400 46" role="img" :aria-label="t('ui.air_left')">
        <rect x="10" y="8" :width="x(air.clear_below_cm3) - 10" height="16" class="clear" />
        <path d="M10 24H390" class="axis" />
        <path :d="`M${x(air.interval_cm3[0])} 16H${x(air.interval_cm3[1])}`" class="interval" />
        <circle :cx="x(air.air_cm3)" cy="16" r="7" class="mode" />
        <text x="10" y="42">0</text>
        <text x="390" y="42" text-anchor="end">{{ figure('_cm3', most, pref) }}</text>
      </svg>
      <p>
        <strong><Fig name="cm3" :value="air.air_cm3" /></strong>,
        {{
          t('ui.air_interval', {
            lo: figure('_cm3', air.interval_cm3[0], pref),
            hi: figure('_cm3', air.interval_cm3[1], pref),
          })
        }}; {{ say('ui.air_cost', { at_n: air.at_force_n }, session.pref) }}
        <Fig name="mm" :value="air.pedal_cost_mm_at_300n" />
      </p>
    </template>
    <p class="small">
      {{ t('ui.air_used', { n: air.used }) }}
      <span v-for="l in air.left_out" :key="l.index">· {{ t('ui.air_out.' + l.why, { n: l.index + 1 }) }} </span>
    </p>
    <p v-if="air.may_have_bottomed" class="caution">{{ t('ui.air_may') }}</p>
    <p v-if="air.shorter_than_twin_mm > 5" class="caution">
      {{ t('ui.air_short', { mm: figure('_mm', air.shorter_than_twin_mm, pref) }) }}
    </p>
    <p v-if="air.further?.kind === 'baseline'" class="small">{{ t('ui.air_further.baseline') }}</p>
    <p v-else-if="air.further" class="small">
      {{ t('ui.air_further.reading', { force: figure('_n', air.further.pedal_force_n ?? 300, pref) }) }}
    </p>
  </div>
</template>

<style scoped>
svg {
  width: 100%;
  max-width: 560px;
  display: block;
}
.clear {
  fill: var(--band);
}
.axis {
  stroke: var(--rule);
}
.interval {
  stroke: var(--a);
  stroke-width: 5;
}
.mode {
  fill: var(--brass);
  stroke: var(--ink);
  stroke-width: 2;
}
text {
  font-size: 14px;
  fill: var(--ink-2);
}
</style>
