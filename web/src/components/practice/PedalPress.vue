<script setup lang="ts">
import { computed, ref } from 'vue'
import Fig from '@/components/Fig.vue'
import VehicleDrawing from './VehicleDrawing.vue'
import { act, bay } from '@/lib/practice'
import { t } from '@/lib/words'

/** A foot on the pedal: as hard as the slider says, for as long as it is held down; mouse, finger or space bar. */
const emit = defineEmits<{ wheel: [string] }>()
const force = ref(200)
const began = ref(0)
const limits = computed(() => bay.view!.offer.bounds)
/** As hard as the slider goes: a grown foot in earnest. */
const most = 600
function down(e?: Event) {
  if (e instanceof KeyboardEvent && e.repeat) return
  if (!began.value && !bay.busy) began.value = Date.now()
}
function up() {
  if (!began.value) return
  const seconds = Math.min(limits.value.seconds[1]!, Math.max(1, Math.round((Date.now() - began.value) / 1000)))
  began.value = 0
  void press(seconds)
}
const press = (seconds: number) => act({ do: 'press', value: force.value, n: seconds })
/** Where the pad stands: as deep as it was last seen under the foot. */
const deep = computed(() => {
  const s = bay.seen
  if (began.value) return Math.min(60, force.value / 8)
  return s?.pressed ? Math.min(70, (s.travel_mm ?? 0) / 2.2) : 0
})
</script>

<template>
  <div class="row pedal">
    <VehicleDrawing :pressed="deep / 2" @wheel="(w) => emit('wheel', w)" />
    <div class="grow">
      <button
        type="button"
        class="tap main wide"
        :aria-pressed="!!began"
        :disabled="bay.busy"
        data-testid="press"
        @pointerdown="down()"
        @pointerup="up"
        @pointerleave="up"
        @keydown.space.prevent="down($event)"
        @keyup.space.prevent="up"
      >
        {{ t(began ? 'doing.let_go' : 'doing.press_hold') }}
      </button>
      <label
        ><span class="small">{{ t('doing.force') }}</span> <Fig name="n" :value="force" />
        <input
          v-model.number="force"
          type="range"
          :min="limits.force_n[0]"
          :max="most"
          step="10"
          data-testid="force"
          :aria-label="t('doing.force')"
      /></label>
      <button type="button" class="tap" :disabled="bay.busy" data-testid="hold-45" @click="press(45)">
        {{ t('doing.hold_45') }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.pedal {
  align-items: flex-start;
}
.grow {
  flex: 1 1 180px;
}
.wide {
  width: 100%;
  min-height: 64px;
  touch-action: none;
}
input[type='range'] {
  width: 100%;
  height: 44px;
}
</style>
