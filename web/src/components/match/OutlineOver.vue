<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas, Unit } from '@/api/client'
import { flangeX, outlineOf } from '@/lib/outline'
import { t } from '@/lib/words'

/** The new unit over the old one, to scale: the old a dashed line, the new a solid one, what differs lit. */
const props = defineProps<{ old: Unit; unit: Unit; points: Schemas['MatchPoint'][] }>()
const a = computed(() => outlineOf(props.old))
const b = computed(() => outlineOf(props.unit))
// What differs is the core's to say: a point that is measured and not the same.
const differs = (id: string) => props.points.some((p) => p.id === id && p.verdict !== 'same' && p.verdict !== 'unknown')
const lit = computed(() => ({ bore: differs('bore'), studs: differs('mounting'), pocket: differs('pocket') }))
const moved = (position: string) => differs('port_' + position)
</script>

<template>
  <svg viewBox="0 -125 450 260" role="img" :aria-label="t('ui.outline_over')" class="over">
    <g class="old">
      <path :d="a.body" />
      <path :d="a.bore" />
      <path :d="a.pocket" />
      <path v-for="s in a.studs" :key="s.y" :d="`M${s.x} ${s.y}h34`" />
      <circle v-for="p in a.ports" :key="p.position" :cx="p.x" :cy="p.y" r="11" />
    </g>
    <g class="new">
      <path :d="b.body" />
      <path :d="b.bore" :class="{ lit: lit.bore }" />
      <path :d="b.pocket" :class="{ lit: lit.pocket }" />
      <path v-for="s in b.studs" :key="s.y" :d="`M${s.x} ${s.y}h34`" :class="{ lit: lit.studs }" />
      <g v-for="p in b.ports" :key="p.position" :class="{ lit: moved(p.position) }">
        <circle :cx="p.x" :cy="p.y" r="8" />
        <text :x="p.x" :y="p.y + (p.y < 0 ? -14 : 26)" text-anchor="middle">{{ p.thread }}</text>
      </g>
    </g>
    <text :x="flangeX - 250" y="124">{{ t('ui.outline_key') }}</text>
  </svg>
</template>

<style scoped>
.over {
  display: block;
  width: 100%;
  max-width: 460px;
}
path,
circle {
  fill: none;
}
.old {
  stroke: var(--b);
  stroke-width: 1.6;
  stroke-dasharray: 6 4;
}
.new {
  stroke: var(--ink);
  stroke-width: 2.4;
}
.lit {
  stroke: var(--bad);
  stroke-width: 4;
}
text {
  font-size: 15px;
  fill: var(--ink-2);
  stroke: none;
}
</style>
