<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { cutaway } from '@/lib/cutaway'
import { figure } from '@/lib/units'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The master cylinder in section, its pistons where the twin puts them, and the pedal's height beside it. */
const props = defineProps<{
  cylinder: Schemas['SystemMasterCylinder']
  point: Schemas['JobPlayPoint']
  ratio: number
  slack: number
  floor?: number
  second: string
}>()
const session = useSession()
const W = 470
const H = 180
const pref = computed(() => (session.pref === 'us' ? 'us' : 'metric'))
const cut = computed(() =>
  cutaway(props.cylinder, props.point.stroke_mm, props.slack, props.point.travel_mm / props.ratio),
)
const left = 14
const k = computed(() => 330 / cut.value.length)
const half = computed(() => Math.min(34, (cut.value.bore * k.value) / 2))
const mid = 104
const x = (mm: number) => left + mm * k.value
const open = (c: string) => props.point.bottomed.includes(c) && !(props.point.pressure_mpa[c] > 0.001)
const fill = (c: string) => 0.1 + 0.6 * Math.min(1, (props.point.pressure_mpa[c] ?? 0) / 12)
// A bubble in section: as the core presses it together.
const bubble = (c: string) => Math.sqrt(props.point.air_cm3[c] ?? 0) * 7
const top = 22
const low = 150
const most = computed(() => props.floor ?? Math.max(60, props.point.high_mm * 1.3))
const y = (mm: number) => top + (Math.min(mm, most.value) / most.value) * (low - top)
</script>

<template>
  <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="t('ui.cutaway')" data-testid="cutaway">
    <defs>
      <pattern id="pairs" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(90)">
        <path d="M0 1.5H8M0 5H8" stroke="var(--b)" stroke-width="1.6" />
      </pattern>
    </defs>
    <g v-for="c in cut.chambers" :key="c.circuit">
      <rect
        :x="x(c.from)"
        :y="mid - half"
        :width="Math.max(0, (c.piston - c.from) * k)"
        :height="2 * half"
        :fill="c.circuit === second ? 'url(#pairs)' : 'var(--a)'"
        :opacity="open(c.circuit) ? 0.05 : fill(c.circuit)"
      />
      <path
        :d="`M${x(c.port) - 3} ${mid - half - 17}V${mid - half}M${x(c.port) + 3} ${mid - half - 17}V${mid - half}`"
        class="port"
      />
      <rect :x="x(c.port) - 17" :y="mid - half - 36" width="34" height="20" class="pot" />
      <rect :x="x(c.port) - 17" :y="mid - half - 28" width="34" height="12" class="oil" />
      <path :d="`M${x(c.from) + 9} ${mid + half}v14`" class="out" :class="{ cut: open(c.circuit) }" />
      <rect :x="x(c.piston)" :y="mid - half + 1.5" :width="20 * k" :height="2 * half - 3" class="piston" />
      <path :d="`M${x(c.piston)} ${mid - half + 2}v${2 * half - 4}`" class="cup" />
      <circle
        v-if="bubble(c.circuit)"
        :cx="(x(c.from) + x(c.piston)) / 2"
        :cy="mid - half + 10"
        :r="bubble(c.circuit)"
        class="air"
      />
      <text :x="x(c.from) + 20" :y="H - 8">
        {{ c.circuit }}
        {{ open(c.circuit) ? t('ui.no_pressure') : figure('_mpa', point.pressure_mpa[c.circuit] ?? 0, pref) }}
      </text>
    </g>
    <path :d="`M${x(cut.length)} ${mid - half}H${left}V${mid + half}H${x(cut.length)}`" class="wall" />
    <path :d="`M${x(cut.rodTip)} ${mid}H${x(cut.length) + 44}`" class="rod" />
    <g class="gauge">
      <rect
        x="424"
        :y="y(point.low_mm)"
        width="22"
        :height="Math.max(2, y(point.high_mm) - y(point.low_mm))"
        class="band"
      />
      <path :d="`M435 ${top}V${low}`" class="thin" />
      <path v-if="floor" :d="`M418 ${low}h34`" class="floor" />
      <path :d="`M416 ${y(point.travel_mm)}h38`" class="pad" :class="{ down: point.floored }" />
      <text x="435" :y="14" text-anchor="middle">{{ t('ui.pedal') }}</text>
      <text x="435" :y="H - 8" text-anchor="middle">{{ figure('_mm', point.travel_mm, pref) }}</text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  display: block;
}
text {
  font-size: 17px;
  font-weight: 600;
}
.wall {
  fill: none;
  stroke: var(--ink);
  stroke-width: 4;
}
.piston {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}
.cup {
  stroke: var(--ink);
  stroke-width: 5;
}
.port {
  stroke: var(--ink);
  stroke-width: 1.6;
}
.pot {
  fill: var(--sheet);
  stroke: var(--rule);
}
.oil {
  fill: var(--brass);
  opacity: 0.55;
}
.out {
  stroke: var(--ink);
  stroke-width: 5;
}
.cut {
  stroke: var(--bad);
  stroke-dasharray: 4 4;
}
.rod {
  stroke: var(--ink-2);
  stroke-width: 9;
}
.air {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.5;
}
.band {
  fill: var(--band);
  stroke: var(--rule);
}
.thin {
  stroke: var(--rule);
}
.floor {
  stroke: var(--bad);
  stroke-width: 4;
}
.pad {
  stroke: var(--ink);
  stroke-width: 7;
}
.down {
  stroke: var(--bad);
}
</style>
