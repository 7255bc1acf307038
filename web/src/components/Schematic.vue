<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas, System } from '@/api/client'
import { assistOf, powered } from '@/lib/assist'
import { layout } from '@/lib/schematic'
import { figure } from '@/lib/units'
import { t, wheels } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The brake system from above, front up, drawn from its data. Circuit A is a solid line, B a dashed pair. */
const props = defineProps<{
  system: System
  pressures?: Record<string, number>
  current?: string
  done?: string[]
  level?: number
  /** Shares of old fluid, for the bleed: by wheel in line and brake, by circuit in the cylinder. */
  fluid?: Schemas['JobFluidNow']
  /** Words at a wheel instead of its pressure, and wheels to be drawn as suspect. */
  marks?: Record<string, string>
  suspect?: string[]
}>()
const session = useSession()
const l = computed(() => layout(props.system))
const trailer = computed(() => !!props.system.actuator)
const assist = computed(() => assistOf(props.system))
const pref = computed(() => (session.pref === 'us' ? 'us' : 'metric'))
const under = computed(() => l.value.cylinder.y + l.value.cylinder.secondary + l.value.cylinder.primary)
const isB = (c: string) => l.value.circuits.indexOf(c) === 1
function label(id: string) {
  if (props.fluid) return t('ui.of_which_old', { percent: Math.round((props.fluid.brake[id] ?? 1) * 100) })
  if (props.marks) return props.marks[id] ?? ''
  const p = props.pressures?.[id]
  return p == null ? '' : figure('_mpa', p, pref.value)
}
</script>

<template>
  <svg viewBox="0 0 460 386" role="img" :aria-label="t('ui.schematic', { name: system.name })" class="plan">
    <path
      v-if="!trailer"
      class="body"
      d="M120 40Q120 18 160 16H300Q340 18 340 40V330Q340 366 310 370H150Q120 366 120 330Z"
    />
    <path v-else class="body" d="M230 8L250 60M230 8L210 60M120 130H340V370H120ZM120 130L222 44M340 130L238 44" />
    <g v-if="fluid" class="old" data-testid="fluid-drawn">
      <path v-for="w in l.wheels" :key="'o' + w.id" :d="w.line" :style="{ opacity: fluid.pipe[w.id] ?? 1 }" />
    </g>
    <g v-for="w in l.wheels" :key="'l' + w.id" :class="{ b: isB(w.circuit) }">
      <template v-if="isB(w.circuit)">
        <path :d="w.line" class="pair" />
        <path :d="w.line" class="core" />
      </template>
      <path v-else :d="w.line" class="solid" />
    </g>
    <g
      v-for="w in l.wheels"
      :key="w.id"
      :transform="`translate(${w.x} ${w.y})`"
      class="wheel"
      :class="{ now: current === w.id, done: done?.includes(w.id), bad: suspect?.includes(w.id) }"
    >
      <rect v-if="w.kind === 'slave'" x="-30" y="-14" width="60" height="28" class="brake" />
      <template v-else>
        <rect x="-13" y="-38" width="26" height="76" rx="7" class="tyre" />
        <circle :r="w.size" class="brake" />
        <circle v-if="fluid" :r="w.size - 2" class="oldbrake" :style="{ opacity: 0.75 * (fluid.brake[w.id] ?? 1) }" />
      </template>
      <path v-if="w.kind === 'slave'" d="M30 0h22" class="caliper" />
      <template v-else-if="w.kind === 'disc'">
        <circle :r="w.size * 0.42" class="thin" />
        <path :d="`M${-w.size} -8a${w.size} ${w.size} 0 0 1 ${w.size * 0.5} -13`" class="caliper" />
      </template>
      <template v-else>
        <circle :r="w.size - 5" class="thin" />
        <path :d="`M-5 ${-w.size + 8}h10`" class="caliper" />
      </template>
      <text y="5" text-anchor="middle" class="id">{{ wheels(w.id) }}</text>
      <circle v-if="suspect?.includes(w.id)" :r="w.size + 7" class="ring" />
      <path v-if="done?.includes(w.id)" d="M-7 22l5 5 9-10" class="tick" />
      <text y="53" text-anchor="middle" class="note">{{ t('enum.' + w.kind) }}</text>
      <text y="68" text-anchor="middle" class="note">{{ label(w.id) }}</text>
    </g>
    <g class="unit">
      <template v-if="assist.vacuum">
        <path
          :d="`M${l.cylinder.x - l.booster} ${under + 12}q0 -12 12 -12h${2 * l.booster - 24}q12 0 12 12v14q0 14 -20 14h${-2 * l.booster + 40}q-20 0 -20 -14z`"
        />
      </template>
      <template v-else-if="assist.pressure">
        <rect :x="l.cylinder.x - 20" :y="under" width="40" height="34" />
        <circle :cx="l.cylinder.x + 31" :cy="under + 17" r="11" />
      </template>
      <g v-if="trailer" class="coupler">
        <path d="M216 6h28v16l-8 10h-12l-8 -10z" />
        <path :d="`M230 32V${l.cylinder.y}`" class="rod" />
        <path :d="`M222 ${l.cylinder.y - 22}l16 5l-16 5l16 5l-16 5h16`" class="boot" />
      </g>
      <path
        v-if="!trailer"
        :d="`M${l.cylinder.x} ${under + (powered(assist) ? 40 : 0)}v26m-14 0h28v9h-28z`"
        class="pedal"
      />
      <rect
        v-if="l.cylinder.secondary"
        :x="l.cylinder.x - l.cylinder.width / 2"
        :y="l.cylinder.y"
        :width="l.cylinder.width"
        :height="l.cylinder.secondary"
      />
      <rect
        :x="l.cylinder.x - l.cylinder.width / 2"
        :y="l.cylinder.y + l.cylinder.secondary"
        :width="l.cylinder.width"
        :height="l.cylinder.primary"
      />
      <g v-if="level != null">
        <rect :x="l.cylinder.x - l.cylinder.width / 2 - 24" :y="l.cylinder.y" width="18" height="52" class="tank" />
        <rect
          :x="l.cylinder.x - l.cylinder.width / 2 - 24"
          :y="l.cylinder.y + 52 * (1 - level)"
          width="18"
          :height="52 * level"
          class="fluid"
        />
      </g>
      <text
        v-if="l.cylinder.secondary"
        :x="l.cylinder.x"
        :y="l.cylinder.y + l.cylinder.secondary / 2 + 5"
        text-anchor="middle"
        class="id"
      >
        {{ system.master_cylinder.secondary?.circuit }}
      </text>
      <text
        :x="l.cylinder.x"
        :y="l.cylinder.y + l.cylinder.secondary + l.cylinder.primary / 2 + 5"
        text-anchor="middle"
        class="id"
      >
        {{ system.master_cylinder.primary.circuit }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
.coupler path {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}
.coupler .rod {
  stroke-width: 4;
}
.plan {
  width: 100%;
  display: block;
}
.body {
  fill: none;
  stroke: var(--rule-soft);
  stroke-width: 2;
}
.solid {
  stroke: var(--a);
  stroke-width: 3;
  fill: none;
}
.pair {
  stroke: var(--b);
  stroke-width: 6;
  stroke-dasharray: 9 5;
  fill: none;
}
.core {
  stroke: var(--sheet);
  stroke-width: 2.2;
  fill: none;
}
.old path {
  fill: none;
  stroke: var(--old);
  stroke-width: 13;
  stroke-linecap: round;
}
.oldbrake {
  fill: var(--old);
}
.tyre {
  fill: var(--sheet);
  stroke: var(--rule);
  stroke-width: 1.5;
}
.brake {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}
.thin {
  fill: none;
  stroke: var(--rule);
}
.caliper {
  stroke: var(--ink);
  stroke-width: 7;
  fill: none;
}
.ring {
  fill: none;
  stroke: var(--bad);
  stroke-width: 3;
  stroke-dasharray: 5 4;
}
.bad .note:last-of-type {
  fill: var(--bad);
  font-weight: 600;
}
.now .brake {
  fill: var(--brass);
  stroke-width: 3.5;
}
.now .id {
  fill: #12323c;
}
.id {
  font-weight: 600;
  font-size: 15px;
}
.note {
  font-size: 14px;
  fill: var(--ink-2);
}
.tick {
  fill: none;
  stroke: var(--ok);
  stroke-width: 4;
}
.unit path,
.unit rect,
.unit circle {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}
.unit .tank {
  fill: none;
}
.unit .fluid {
  fill: var(--brass);
  stroke: none;
}
</style>
