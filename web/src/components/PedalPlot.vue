<script setup lang="ts">
import { scaleLinear } from 'd3-scale'
import { line } from 'd3-shape'
import { computed } from 'vue'
import { convert, plain } from '@/lib/units'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** Pedal travel over force. The pedal goes down, so travel is drawn downwards. */
export interface Trace {
  label: string
  style: 'thick' | 'thin' | 'dashed'
  points: { x: number; y: number }[]
}
const props = defineProps<{
  traces: Trace[]
  band?: { x: number; low: number; high: number }[]
  marks?: { x: number; y: number }[]
  /** Where the foot stands on the curve now. */
  now?: { x: number; y: number }
  floor?: number
  coupler?: boolean
}>()
const session = useSession()
const W = 460
const H = 250
const m = { l: 54, r: 14, t: 28, b: 40 }
const us = computed(() => session.pref === 'us')
const force = (n: number) => (us.value ? convert(n, 'N', 'lbf') : n)
const travel = (mm: number) => (us.value ? convert(mm, 'mm', 'in') : mm)
const all = computed(() => props.traces.flatMap((c) => c.points))
const x = computed(() =>
  scaleLinear()
    .domain([0, force(Math.max(100, ...all.value.map((p) => p.x), ...(props.marks ?? []).map((p) => p.x)))])
    .range([m.l, W - m.r]),
)
const y = computed(() =>
  scaleLinear()
    .domain([
      0,
      travel(
        Math.max(
          20,
          ...all.value.map((p) => p.y),
          ...(props.band ?? []).map((b) => b.high),
          ...(props.marks ?? []).map((p) => p.y),
        ) * 1.06,
      ),
    ])
    .range([m.t, H - m.b]),
)
const path = computed(() =>
  line<{ x: number; y: number }>()
    .x((p) => x.value(force(p.x)))
    .y((p) => y.value(travel(p.y))),
)
const band = computed(() => {
  if (!props.band?.length) return ''
  const up = props.band.map((b) => ({ x: b.x, y: b.low }))
  const down = [...props.band].reverse().map((b) => ({ x: b.x, y: b.high }))
  return path.value([...up, ...down]) + 'Z'
})
const units = computed(() => (us.value ? ['lbf', 'in'] : ['N', 'mm']))
const digits = (ticks: number[]) => (ticks.length > 1 && ticks[1] - ticks[0] < 1 ? 1 : 0)
const xt = computed(() => x.value.ticks(5))
const yt = computed(() => y.value.ticks(5))
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="t(coupler ? 'ui.plot_coupler' : 'ui.plot_pedal')">
      <path v-if="band" :d="band" class="band" />
      <g class="grid">
        <line v-for="v in xt" :key="'x' + v" :x1="x(v)" :x2="x(v)" :y1="m.t" :y2="H - m.b" />
        <line v-for="v in yt" :key="'y' + v" :x1="m.l" :x2="W - m.r" :y1="y(v)" :y2="y(v)" />
      </g>
      <path :d="`M${m.l} ${H - m.b}V${m.t}H${W - m.r}`" class="axis" />
      <text v-for="v in xt" :key="'xt' + v" :x="x(v)" :y="m.t - 7" text-anchor="middle">
        {{ plain(v, digits(xt)) }}
      </text>
      <text v-for="v in yt.slice(1)" :key="'yt' + v" :x="m.l - 7" :y="y(v) + 5" text-anchor="end">
        {{ plain(v, digits(yt)) }}
      </text>
      <text :x="W - m.r" :y="m.t + 16" text-anchor="end" class="name">
        {{ t(coupler ? 'ui.force_coupler' : 'ui.force') }}, {{ units[0] }}
      </text>
      <text :x="m.l + 6" :y="H - m.b - 6" class="name">
        {{ t(coupler ? 'ui.travel_coupler' : 'ui.travel') }}, {{ units[1] }}
      </text>
      <line
        v-if="floor && travel(floor) <= y.domain()[1]"
        class="floor"
        :x1="m.l"
        :x2="W - m.r"
        :y1="y(travel(floor))"
        :y2="y(travel(floor))"
      />
      <path v-for="c in traces" :key="c.label" :d="path(c.points) ?? ''" :class="c.style" class="trace" />
      <path
        v-for="(p, i) in marks ?? []"
        :key="i"
        :transform="`translate(${x(force(p.x))} ${y(travel(p.y))})`"
        d="M-6 -6L6 6M-6 6L6 -6"
        class="mark"
      />
      <template v-if="now">
        <path :d="`M${x(force(now.x))} ${m.t}V${y(travel(now.y))}`" class="drop" />
        <circle :cx="x(force(now.x))" :cy="y(travel(now.y))" r="7" class="now" />
      </template>
    </svg>
    <figcaption class="row small">
      <span v-for="c in traces" :key="c.label" class="key">
        <svg width="34" height="10" aria-hidden="true"><path d="M1 5H33" :class="c.style" class="trace" /></svg
        >{{ c.label }}
      </span>
      <span v-if="band" class="key"><i class="swatch" />{{ t('ui.band') }}</span>
      <span v-if="marks?.length" class="key"
        ><svg width="16" height="14" aria-hidden="true"><path d="M2 1L14 13M2 13L14 1" class="mark" /></svg
        >{{ t('ui.read') }}</span
      >
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  max-width: 560px;
}
.axis {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.5;
}
.grid line {
  stroke: var(--rule-soft);
}
text {
  font-size: 16px;
}
.name {
  fill: var(--ink-2);
}
.trace {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.8;
}
.thick {
  stroke-width: 3.6;
  stroke: var(--a);
}
.dashed {
  stroke-dasharray: 6 5;
}
.band {
  fill: var(--band);
}
.floor {
  stroke: var(--bad);
  stroke-width: 3;
}
.drop {
  stroke: var(--ink-2);
  stroke-dasharray: 2 4;
}
.now {
  fill: var(--brass);
  stroke: var(--ink);
  stroke-width: 2;
}
.mark {
  stroke: var(--b);
  stroke-width: 2.6;
  fill: none;
}
.key {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.swatch {
  width: 26px;
  height: 12px;
  background: var(--band);
}
</style>
