<script setup lang="ts">
import { computed } from 'vue'
import { act, bay, type Act } from '@/lib/practice'
import { actName } from '@/lib/practicewords'
import { wheels } from '@/lib/words'
import { useJob } from '@/stores/job'

/**
 * The vehicle from the side, drawn from its state: the foot's pedal, what is between it and the wall, the reservoir's level, the wheels
 * with their bleeders. Each place can be tapped for what one does there first.
 */
const props = defineProps<{ pressed: number }>()
const emit = defineEmits<{ wheel: [string] }>()
const store = useJob()
const v = computed(() => bay.view!)
const isOff = (part: string) => v.value.stands.off.some((p) => p === part || p.startsWith(part + ':'))
const powered = computed(() => v.value.offer.mends.includes('supply:'))
const pedal = computed(() => !!store.job?.intake.system?.pedal)
/** As deep as the foot is now, or as it was last seen: degrees at the pin. */
const turn = computed(() => -Math.min(32, props.pressed))
const level = computed(() => Math.max(0, Math.min(1, v.value.stands.level)))
const places = computed(() => (store.job?.intake.system?.wheels ?? []).map((w, i) => ({ id: w.id, x: 30 + i * 82 })))
const can = (id: string) => v.value.offer.tests.includes(id)
/** What is done first at a place. */
const zones = computed(() => {
  const list: { key: string; a: Act; x: number; y: number; w: number; h: number }[] = []
  const add = (key: string, id: string, x: number, y: number, w: number, h: number) =>
    can(id) && list.push({ key, a: { do: 'test', id }, x, y, w, h })
  add('reservoir', 'reservoir_watch', 196, 4, 62, 40)
  add('hood', 'look', 150, 46, 130, 54)
  add('under', 'hose_watch', 150, 100, 130, 28)
  add('carpet', 'wipe_and_press', 8, 102, 100, 24)
  return list
})
const idle = computed(() => bay.busy || !!v.value.stands.stopped || v.value.ended)
</script>

<template>
  <svg viewBox="0 0 360 200" class="vehicle" role="group" data-testid="vehicle-drawing">
    <!-- the cab's floor, the wall, the hood -->
    <path d="M6 128H128V40" class="thick" />
    <path d="M8 122H108" class="carpet" />
    <g v-if="pedal" :transform="`rotate(${turn} 60 26)`">
      <path d="M60 26L96 92" class="arm" />
      <path d="M82 102l26-16" class="pad" />
      <path v-if="!isOff('pedal_end')" d="M76 56H128" class="rod" />
    </g>
    <circle v-if="pedal" cx="60" cy="26" r="5" class="pin" />
    <!-- booster and cylinder -->
    <g v-if="powered" :class="{ away: isOff('booster') }">
      <path d="M128 46h14l14 10v28l-14 10h-14z" class="body" />
    </g>
    <g :class="{ away: isOff('cylinder') }">
      <path d="M156 60h96v22h-96z" class="body" />
      <path d="M252 66h14v10h-14" />
    </g>
    <g>
      <path d="M200 10h54v46h-54z" class="body" />
      <path :d="`M201.5 55v${-44 * level}h51v${44 * level}z`" class="fluid" />
    </g>
    <path d="M180 82V112M228 82V104" :class="{ away: isOff('line') }" class="pipe" />
    <path
      v-if="powered"
      d="M142 46V22H172"
      class="pipe"
      :class="{ away: isOff('vacuum_hose') || isOff('pressure_line') }"
    />
    <!-- the wheels, each with its bleeder -->
    <g v-for="w in places" :key="w.id" :class="{ away: v.stands.wheels_off }">
      <circle :cx="w.x + 24" cy="156" r="22" class="body" />
      <circle :cx="w.x + 24" cy="156" r="7" />
    </g>
    <g
      v-for="w in places"
      :key="'t' + w.id"
      role="button"
      tabindex="0"
      :aria-label="wheels(w.id)"
      class="zone"
      :data-testid="'drawn-' + w.id"
      @click="emit('wheel', w.id)"
      @keydown.enter.prevent="emit('wheel', w.id)"
    >
      <rect :x="w.x" y="132" width="48" height="50" />
      <text :x="w.x + 24" y="195" text-anchor="middle">{{ wheels(w.id) }}</text>
    </g>
    <g
      v-for="z in zones"
      :key="z.key"
      role="button"
      tabindex="0"
      :aria-label="actName(z.a)"
      class="zone"
      :data-testid="'drawn-' + z.key"
      @click="!idle && act(z.a)"
      @keydown.enter.prevent="!idle && act(z.a)"
    >
      <title>{{ actName(z.a) }}</title>
      <rect :x="z.x" :y="z.y" :width="z.w" :height="z.h" />
    </g>
    <text x="266" y="24">{{ Math.round(100 * level) }} %</text>
  </svg>
</template>

<style scoped>
.vehicle {
  width: 100%;
  max-width: 420px;
}
path,
circle {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2.5;
}
.thick {
  stroke-width: 5;
}
.carpet {
  stroke-dasharray: 4 3;
}
.arm {
  stroke-width: 6;
}
.pad {
  stroke-width: 9;
}
.pin {
  fill: var(--sheet);
}
.rod {
  stroke-width: 4;
}
.body {
  fill: var(--paper);
}
.fluid {
  fill: var(--rule);
  stroke: none;
}
.pipe {
  stroke-dasharray: 8 4;
}
/** What is off is drawn as where it would be. */
.away,
.away path,
.away circle {
  stroke-dasharray: 2 5;
  opacity: 0.55;
}
.zone rect {
  fill: transparent;
  stroke: none;
  cursor: pointer;
}
.zone:focus-visible rect,
.zone:hover rect {
  stroke: var(--focus, var(--ink));
  stroke-width: 2;
}
text {
  font:
    600 13px 'Barlow',
    sans-serif;
  fill: var(--ink);
}
</style>
