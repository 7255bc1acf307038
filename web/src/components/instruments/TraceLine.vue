<script setup lang="ts">
import { computed } from 'vue'
import { t } from '@/lib/words'

/** A trace as it is drawn, between its lowest and its highest. */
const props = defineProps<{ points: { s: number; v: number }[]; seconds: number }>()
const line = computed(() => {
  const list = props.points
  if (list.length < 2) return ''
  const low = Math.min(...list.map((p) => p.v))
  const high = Math.max(...list.map((p) => p.v), low + 1e-6)
  const x = (s: number) => ((300 * s) / Math.max(1, props.seconds)).toFixed(1)
  return list.map((p) => `${x(p.s)},${(10 + (80 * (p.v - low)) / (high - low)).toFixed(1)}`).join(' ')
})
</script>

<template>
  <svg
    v-if="line"
    viewBox="0 0 300 100"
    preserveAspectRatio="none"
    width="100%"
    height="90"
    role="img"
    :aria-label="t('instrument.drawn')"
  >
    <path d="M0 10H300M0 90H300" class="rail" />
    <polyline :points="line" />
  </svg>
</template>

<style scoped>
polyline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}
.rail {
  stroke: var(--rule);
  stroke-dasharray: 6 4;
}
</style>
