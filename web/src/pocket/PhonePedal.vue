<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { Refused, type Problem, type Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import NumField from '@/components/NumField.vue'
import SheetBox from '@/components/SheetBox.vue'
import { useKept } from '@/lib/kept'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'
import MotionGate from './MotionGate.vue'
import { useMotion } from './motion'
import { travelOf } from './tools'

/** The pedal's travel by this phone on its arm: it feels its rest, then how far gravity turns. A hand takes the figure. */
const props = defineProps<{ seconds: number }>()
const emit = defineEmits<{ close: []; take: [number] }>()
const session = useSession()
const recordMostS = 60
const { state, allow, last } = useMotion(recordMostS)
const radius = useKept<number | null>('pedal_radius', null)
const began = ref(0)
const now = ref(0)
useIntervalFn(() => (now.value = performance.now() / 1000), 200)
const resting = computed(() => now.value - began.value < props.seconds)
const out = ref<Schemas['MotionTravelled'] | null>(null)
const problem = ref<Problem | null>(null)
function begin() {
  out.value = null
  problem.value = null
  now.value = began.value = performance.now() / 1000
}
async function end() {
  const samples = last(performance.now() / 1000 - began.value)
  began.value = 0
  try {
    out.value = await travelOf({ samples, radius_mm: radius.value! })
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    problem.value = e.problem
  }
}
const figure = computed(() =>
  out.value
    ? { value_mm: Math.round(out.value.most_mm * 10) / 10, half_mm: (out.value.high_mm - out.value.low_mm) / 2 }
    : null,
)
function take() {
  emit('take', figure.value!.value_mm)
  emit('close')
}
</script>

<template>
  <SheetBox :show="true" :title="t('phone.pedal')" @update:show="emit('close')">
    <MotionGate :state="state" @allow="allow">
      <p>{{ t('phone.pedal_strap') }} {{ t('phone.vehicle_still') }}</p>
      <NumField v-model="radius" name="mm" bound="pedal.radius_mm" :label="t('phone.radius')" testid="phone-radius" />
      <p class="figure" role="status" data-testid="phone-travel">
        <strong v-if="figure">{{ say('phone.travel', figure, session.pref) }}</strong>
        <span v-else-if="began">{{ t(resting ? 'phone.pedal_rest' : 'phone.pedal_press') }}</span>
        <span v-else-if="state === 'asked'">{{ t('phone.waiting') }}</span>
      </p>
      <Faults v-if="problem" :problem="problem" />
      <div class="row gap">
        <button
          v-if="!began"
          type="button"
          class="tap"
          :class="{ main: !figure }"
          :disabled="radius == null || state !== 'here'"
          data-testid="phone-begin"
          @click="begin"
        >
          {{ t('phone.pedal_begin') }}
        </button>
        <button v-else type="button" class="tap main" :disabled="resting" data-testid="phone-end" @click="end">
          {{ t('phone.pedal_end') }}
        </button>
        <button v-if="figure && !began" type="button" class="tap main" data-testid="phone-take" @click="take">
          {{ t('phone.take') }}
        </button>
      </div>
      <p class="small">{{ t('phone.pedal_off') }}</p>
    </MotionGate>
  </SheetBox>
</template>

<style scoped>
.figure {
  min-height: 52px;
  font-size: 22px;
}
.figure strong {
  font-size: 32px;
}
</style>
