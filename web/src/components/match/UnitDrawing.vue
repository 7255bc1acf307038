<script setup lang="ts">
import { computed } from 'vue'
import type { Unit } from '@/api/client'
import { figure } from '@/lib/units'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** Where to measure: the unit in section, flange to the right, drawn from what has been measured. */
const props = defineProps<{ unit: Unit; single?: boolean }>()
const session = useSession()
const f = (v: number | null | undefined) => (v == null ? '?' : figure('mm', v, session.pref === 'us' ? 'us' : 'metric'))
const bore = computed(() => (props.unit.bore_mm ?? 24) * 1.5)
const pocket = computed(() => Math.min(46, (props.unit.pocket_mm ?? 12) * 2))
const stud = computed(() => Math.min(150, (props.unit.stud_spacing_mm ?? 85) * 1.25))
</script>

<template>
  <svg viewBox="0 0 560 190" role="img" :aria-label="t('ui.where_measure')" class="drawing">
    <g transform="translate(0 95)">
      <path :d="`M60 ${-bore / 2 - 9}H330V${bore / 2 + 9}H60Z`" class="cut" />
      <path :d="`M70 ${-bore / 2}H330V${bore / 2}H70Z`" class="hole" />
      <path
        :d="
          `M${330 - pocket} ${-bore / 2 + 2}V${bore / 2 - 2}` + (single ? '' : `M196 ${-bore / 2 + 2}V${bore / 2 - 2}`)
        "
        class="piston"
      />
      <rect x="330" :y="-stud / 2 - 14" width="12" :height="stud + 28" class="cut" />
      <path :d="`M342 ${-stud / 2}h30M342 ${stud / 2}h30`" class="bolt" />
      <rect v-if="!single" x="108" :y="-bore / 2 - 24" width="22" height="16" class="cut" />
      <rect x="236" :y="-bore / 2 - 24" width="22" height="16" class="cut" />
      <path :d="`M40 ${-bore / 2}v${bore}M34 ${-bore / 2}h12M34 ${bore / 2}h12`" class="dim" />
      <text x="30" y="5" text-anchor="end" transform="rotate(-90 30 5)" />
      <text x="4" :y="bore / 2 + 28">{{ t('point.bore') }} {{ f(unit.bore_mm) }}</text>
      <path :d="`M390 ${-stud / 2}v${stud}M384 ${-stud / 2}h12M384 ${stud / 2}h12`" class="dim" />
      <text x="402" y="5">{{ t('point.mounting') }} {{ f(unit.stud_spacing_mm) }}</text>
      <path
        :d="`M${330 - pocket} ${bore / 2 + 18}H330M${330 - pocket} ${bore / 2 + 12}v12M330 ${bore / 2 + 12}v12`"
        class="dim"
      />
      <text x="322" :y="bore / 2 + 42" text-anchor="end">{{ t('point.pocket') }} {{ f(unit.pocket_mm) }}</text>
      <text v-if="!single" x="119" :y="-bore / 2 - 30" text-anchor="middle">{{ t('spec.front') }}</text>
      <text x="247" :y="-bore / 2 - 30" text-anchor="middle">{{ t('spec.rear') }}</text>
    </g>
  </svg>
</template>

<style scoped>
.drawing {
  width: 100%;
  max-width: 640px;
  display: block;
  margin: 0 auto 8px;
}
.cut {
  fill: var(--rule-soft);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.hole {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.2;
}
.piston,
.bolt {
  stroke: var(--ink);
  stroke-width: 4;
}
.bolt {
  stroke-width: 7;
}
.dim {
  stroke: var(--a);
  stroke-width: 1.6;
  fill: none;
}
text {
  font-size: 15px;
}
</style>
