<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Picture } from './picture'
import { t } from '@/lib/words'

/**
 * A picture to tap points on. The finger that stays down moves the point slowly under the magnifier, which stands where the finger is
 * not; arrows move the last point by a px of the picture, Enter sets one in the middle.
 */
export interface Tap {
  x: number
  y: number
  fine?: boolean
  scale?: number
}
const props = defineProps<{
  picture: Picture
  points: Tap[]
  /** Edges that were found, to be seen. */
  found?: { x: number; y: number }[]
  /** Whether another point is wanted. */
  wants: boolean
  magnifier: number
}>()
const emit = defineEmits<{ put: [Tap[]] }>()
const svg = ref<SVGSVGElement>()
const { width, height } = useElementSize(svg)
/** Px of the picture under one of the screen. */
const scale = computed(() =>
  width.value ? Math.max(props.picture.wide / width.value, props.picture.high / height.value) : 1,
)
const round = (v: number) => Math.round(v * 10) / 10
const clamp = (v: number, most: number) => round(Math.max(0, Math.min(most, v)))
const tap = (x: number, y: number, fine: boolean): Tap => ({
  x: clamp(x, props.picture.wide),
  y: clamp(y, props.picture.high),
  ...(fine && { fine }),
  scale: round(scale.value),
})
/** Where the finger went down, and the point it moves. */
const held = ref<{ sx: number; sy: number; x: number; y: number; at: Tap } | null>(null)
function place(e: PointerEvent) {
  return new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.value!.getScreenCTM()!.inverse())
}
function down(e: PointerEvent) {
  if (!props.wants || held.value) return
  svg.value!.setPointerCapture(e.pointerId)
  const p = place(e)
  held.value = { sx: e.clientX, sy: e.clientY, x: p.x, y: p.y, at: tap(p.x, p.y, false) }
}
function move(e: PointerEvent) {
  const h = held.value
  if (!h) return
  const [dx, dy] = [e.clientX - h.sx, e.clientY - h.sy]
  if (Math.hypot(dx, dy) < 3 && !h.at.fine) return
  const slow = scale.value / props.magnifier
  h.at = tap(h.x + dx * slow, h.y + dy * slow, true)
}
function up() {
  if (!held.value) return
  emit('put', [...props.points, held.value.at])
  held.value = null
}
function key(e: KeyboardEvent) {
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
  if (e.key === 'Enter' && props.wants) {
    emit('put', [...props.points, tap(props.picture.wide / 2, props.picture.high / 2, true)])
  } else if (by && props.points.length) {
    const last = props.points.at(-1)!
    const step = e.shiftKey ? 20 : 1
    emit('put', [...props.points.slice(0, -1), tap(last.x + by[0]! * step, last.y + by[1]! * step, true)])
  } else return
  e.preventDefault()
}
/** What the glass shows: as many px of the picture as it is wide on the screen, by how much it magnifies. */
const glassPX = 150
const seenThrough = computed(() => {
  const side = (glassPX * scale.value) / props.magnifier
  const at = held.value!.at
  return `${at.x - side / 2} ${at.y - side / 2} ${side} ${side}`
})
const mark = computed(() => 9 * scale.value)
</script>

<template>
  <div class="tapping">
    <svg
      ref="svg"
      :viewBox="`0 0 ${picture.wide} ${picture.high}`"
      tabindex="0"
      role="application"
      :aria-label="t('photo.tap_help')"
      data-testid="photo-tap"
      @pointerdown.prevent="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="held = null"
      @keydown="key"
    >
      <image :href="picture.src" :width="picture.wide" :height="picture.high" />
      <path v-for="(p, i) in found ?? []" :key="'f' + i" :d="`M${p.x} ${p.y}h0.01`" class="found" />
      <g v-for="(p, i) in points" :key="i" class="point">
        <path :d="`M${p.x - mark} ${p.y}h${2 * mark}M${p.x} ${p.y - mark}v${2 * mark}`" />
        <text :x="p.x + mark" :y="p.y - mark * 0.4" :font-size="17 * scale">{{ i + 1 }}</text>
      </g>
    </svg>
    <svg
      v-if="held"
      class="glass"
      :class="{ right: held.at.x < picture.wide / 2 }"
      :viewBox="seenThrough"
      aria-hidden="true"
    >
      <image :href="picture.src" :width="picture.wide" :height="picture.high" />
      <path
        :d="`M${held.at.x - 4 * scale} ${held.at.y}h${8 * scale}M${held.at.x} ${held.at.y - 4 * scale}v${8 * scale}`"
        class="hair"
      />
    </svg>
  </div>
</template>

<style scoped>
.tapping {
  position: relative;
}
svg {
  display: block;
  width: 100%;
  background: var(--sheet);
}
.tapping > svg:first-child {
  touch-action: none;
  max-height: 64vh;
  cursor: crosshair;
}
.glass {
  position: absolute;
  top: 8px;
  left: 8px;
  width: 150px;
  height: 150px;
  border: 3px double var(--ink);
  pointer-events: none;
}
.glass.right {
  left: auto;
  right: 8px;
}
path {
  fill: none;
  stroke: var(--a);
  stroke-width: 2.5px;
  vector-effect: non-scaling-stroke;
}
.found {
  stroke: var(--ok);
  stroke-width: 4px;
  stroke-linecap: round;
}
.hair {
  stroke-width: 1.5px;
}
text {
  fill: var(--a);
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 4px;
  vector-effect: non-scaling-stroke;
  font-weight: 600;
}
</style>
