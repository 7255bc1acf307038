<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { t } from '@/lib/words'

/** One chamber in the vice at its tilt, with the air that stays: wedge and piston at true proportion. */
const props = defineProps<{ chamber: Schemas['JobChamberBench']; tilt: number }>()
const g = computed(() => props.chamber.geometry)
const k = computed(() => 190 / Math.max(60, g.value.length_mm + 30))
const L = computed(() => g.value.length_mm * k.value)
const D = computed(() => g.value.bore_mm * k.value)
const port = computed(() => g.value.port_mm * k.value)
const wedge = computed(() => {
  const points = props.chamber.pocket.map((p) => `${p.z_mm * k.value} ${p.y_mm * k.value}`)
  return points.length ? 'M' + points.join('L') + 'Z' : ''
})
</script>

<template>
  <svg viewBox="0 0 300 170" role="img" :aria-label="t('ui.bench_drawing', { id: chamber.circuit })">
    <g :transform="`translate(40 70) rotate(${tilt} 95 ${D / 2})`">
      <rect x="-9" y="-9" :width="L + 40" :height="D + 18" class="wall" />
      <rect x="0" y="0" :width="L + 31" :height="D" class="fluid" />
      <path v-if="wedge" :d="wedge" class="air" />
      <rect :x="L" y="1" width="31" :height="D - 2" class="piston" />
      <rect :x="port" y="-22" width="12" height="14" class="wall" />
      <path :d="`M${port + 6} -22v-14`" class="hose" />
    </g>
    <path d="M6 160H294" class="level" />
  </svg>
</template>

<style scoped>
.wall {
  fill: var(--rule-soft);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.fluid {
  fill: var(--band);
  stroke: var(--ink);
}
.air {
  fill: var(--sheet);
  stroke: var(--bad);
  stroke-width: 2;
}
.piston {
  fill: var(--rule);
  stroke: var(--ink);
}
.hose {
  stroke: var(--a);
  stroke-width: 5;
}
.level {
  stroke: var(--rule);
  stroke-dasharray: 10 4 2 4;
}
</style>
