<script setup lang="ts">
import { t } from '@/lib/words'

/** From the pedal to the wheel in one drawing, the part a word is about lit. */
const props = defineProps<{ lit: string }>()
const on = (part: string) => ({ lit: props.lit === part || props.lit === 'all' })
</script>

<template>
  <svg viewBox="0 0 640 250" role="img" :aria-label="t('ui.train')" class="train">
    <!-- pedal, its simulator, the rod -->
    <path d="M40 20 L40 60 L26 170 h30 L44 170" :class="on('pedal')" />
    <rect x="60" y="120" width="34" height="22" :class="on('simulator')" />
    <path d="M40 100H96" :class="on('rod')" />
    <!-- booster, diaphragm, check valve, accumulator -->
    <rect x="96" y="50" width="104" height="100" rx="14" :class="on('booster')" />
    <path d="M150 54 q-16 46 0 92" :class="on('diaphragm')" />
    <path d="M170 50v-16h18v-10h-18" :class="on('check')" />
    <circle cx="118" cy="172" r="16" :class="on('accumulator')" />
    <path d="M118 156v-6" />
    <path d="M150 100H214" :class="on('rod')" />
    <path d="M214 86v28M220 86v28" :class="on('gap')" />
    <!-- master cylinder -->
    <path d="M206 76H372V124H206" :class="on('cylinder')" />
    <path d="M228 90h20v20h-20z" :class="on('pocket')" />
    <rect x="226" y="84" width="40" height="32" :class="on('primary')" />
    <rect x="300" y="84" width="34" height="32" :class="on('secondary')" />
    <path d="M262 82l8 18-8 18M330 82l8 18-8 18" :class="on('cups')" />
    <path d="M272 76v-10M346 76v-10" :class="on('port')" />
    <rect x="266" y="58" width="14" height="8" :class="on('grommet')" />
    <rect x="340" y="58" width="14" height="8" :class="on('grommet')" />
    <path d="M250 16H374V58H250Z" :class="on('reservoir')" />
    <path d="M256 32H368" class="level" />
    <!-- lines, residual valve, nut, modulator, proportioning -->
    <path d="M286 124V200H430M352 124V160H430" :class="on('lines')" />
    <path d="M280 128h12l-4 10h-4zM346 128h12l-4 10h-4z" :class="on('nut')" />
    <circle cx="286" cy="168" r="8" :class="on('residual')" />
    <rect x="430" y="146" width="46" height="68" :class="on('modulator')" />
    <path d="M476 160H520M476 200H520" :class="on('lines')" />
    <path d="M492 192l14 8-14 8z" :class="on('proportioning')" />
    <path d="M520 160q14 -30 30 -24M520 200q14 20 30 14" :class="on('hose')" />
    <!-- disc and drum -->
    <circle cx="588" cy="100" r="44" />
    <path d="M556 112q-10 16 4 28l18-10q-8-6-4-14z" :class="on('caliper')" />
    <path d="M552 116l-10-12" :class="on('bleeder')" />
    <circle cx="588" cy="206" r="38" />
    <rect x="572" y="178" width="32" height="12" :class="on('wheel_cylinder')" />
    <!-- a trailer's coupler -->
    <path d="M24 226H120M60 216h30v20h-30z" :class="on('coupler')" />
  </svg>
</template>

<style scoped>
.train {
  width: 100%;
  max-width: 520px;
  display: block;
}
path,
rect,
circle {
  fill: none;
  stroke: var(--rule);
  stroke-width: 1.8;
}
.level {
  stroke-dasharray: 6 4;
}
.lit {
  stroke: var(--bad);
  stroke-width: 4.5;
}
</style>
