<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { dayText } from '@/lib/when'
import { t } from '@/lib/words'

/** A vehicle's water over the years, its own rise and when it is due by it. */
const props = defineProps<{ water: Schemas['JobWaterLine'] }>()
const x = (at: string) => {
  const list = props.water.readings
  const [a, b] = [new Date(list[0]!.at).getTime(), new Date(list.at(-1)!.at).getTime()]
  return 40 + (b > a ? ((new Date(at).getTime() - a) / (b - a)) * 320 : 0)
}
const y = (p: number) => 110 - Math.min(4, p) * 24
</script>

<template>
  <svg v-if="water.readings.length > 1" viewBox="0 0 400 130" role="img" :aria-label="t('ui.water_trend')">
    <path d="M40 110H370M40 110V14" class="axis" />
    <path :d="`M40 ${y(water.limit_percent)}H370`" class="limit" />
    <text x="4" :y="y(water.limit_percent) + 4">{{ water.limit_percent }} %</text>
    <circle v-for="r in water.readings" :key="r.at" :cx="x(r.at)" :cy="y(r.percent)" r="6" />
  </svg>
  <p v-if="water.a_year != null">
    {{ t('ui.water_a_year', { n: water.a_year.toFixed(2) })
    }}<template v-if="water.spread != null">, {{ t('ui.water_spread', { n: water.spread.toFixed(2) }) }}</template
    ><template v-if="water.due_at">. {{ t('ui.water_own_due', { at: dayText(water.due_at) }) }}</template>
  </p>
  <p v-else class="small">{{ t('ui.water_never', { n: water.assumed_a_year }) }}</p>
</template>

<style scoped>
.axis {
  stroke: var(--ink);
  fill: none;
}
.limit {
  stroke: var(--bad);
  stroke-dasharray: 6 4;
}
circle {
  fill: var(--a);
}
text {
  font-size: 12px;
  fill: var(--ink-2);
}
</style>
