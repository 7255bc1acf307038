<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { Refused, type Problem, type Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import SheetBox from '@/components/SheetBox.vue'
import { bare } from '@/lib/units'
import { t } from '@/lib/words'
import MotionGate from './MotionGate.vue'
import { useMotion, type Sample } from './motion'
import { tiltOf } from './tools'

/**
 * How the unit lies, by this phone: first laid on the vehicle's sill, which takes its slope away, then along the unit, where it shows
 * while the unit is turned. A hand takes it.
 */
const props = defineProps<{ seconds: number }>()
const emit = defineEmits<{ close: []; take: [number] }>()
const { state, allow, last } = useMotion(2 * props.seconds)
const zero = ref<Sample[] | undefined>()
const skipped = ref(false)
const tilt = ref<Schemas['MotionTilt'] | null>(null)
const problem = ref<Problem | null>(null)
let asking = false
const { pause } = useIntervalFn(async () => {
  if (state.value !== 'here') tilt.value = null // what was told last is not how it lies now
  if (state.value !== 'here' || asking) return
  asking = true
  try {
    tilt.value = await tiltOf({ samples: last(props.seconds), zero: zero.value })
    problem.value = null
  } catch (e) {
    if (!(e instanceof Refused)) {
      pause()
      throw e
    }
    tilt.value = null
    problem.value = e.problem
  } finally {
    asking = false
  }
}, 500)
function setZero() {
  zero.value = last(props.seconds)
}
const laid = computed(() => !!zero.value || skipped.value)
const deg = (v: number) => bare(Math.round(v * 10) / 10)
const half = computed(() => (tilt.value ? (tilt.value.high_deg - tilt.value.low_deg) / 2 : 0))
function take() {
  emit('take', Math.round(tilt.value!.deg * 10) / 10)
  emit('close')
}
</script>

<template>
  <SheetBox :show="true" :title="t('phone.tilt')" @update:show="emit('close')">
    <MotionGate :state="state" @allow="allow">
      <p>{{ t(laid ? 'phone.lay_along' : 'phone.lay_level') }}</p>
      <p class="figure" role="status" data-testid="phone-tilt">
        <strong v-if="tilt">{{ t('phone.deg', { deg: deg(tilt.deg), half: deg(half) }) }}</strong>
        <span v-else>{{ t('phone.waiting') }}</span>
      </p>
      <Faults v-if="problem" :problem="problem" />
      <div class="row gap">
        <template v-if="!laid">
          <button type="button" class="tap main" :disabled="!tilt" data-testid="phone-zero" @click="setZero">
            {{ t('phone.zero') }}
          </button>
          <button type="button" class="tap" data-testid="phone-skip" @click="skipped = true">
            {{ t('phone.skip') }}
          </button>
        </template>
        <template v-else>
          <button type="button" class="tap main" :disabled="!tilt" data-testid="phone-take" @click="take">
            {{ t('phone.take') }}
          </button>
          <button type="button" class="tap" @click="((zero = undefined), (skipped = false))">
            {{ t('phone.zero_again') }}
          </button>
        </template>
      </div>
    </MotionGate>
  </SheetBox>
</template>

<style scoped>
.figure {
  min-height: 52px;
  font-size: 22px;
}
.figure strong {
  font-size: 36px;
}
</style>
