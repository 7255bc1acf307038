<script setup lang="ts">
import { computed, watch } from 'vue'
import Choice from '@/components/Choice.vue'
import NumField from '@/components/NumField.vue'
import TakeLive from '@/components/instruments/TakeLive.vue'
import TraceTake from '@/components/instruments/TraceTake.vue'
import { useKept } from '@/lib/kept'
import { useAwake } from '@/lib/ring'
import { useTimer } from '@/lib/timer'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** The hold test: a steady foot, a running clock, the height at the start and at the end. */
const props = defineProps<{
  phase: string
  /** The force of a firm foot, where there is no gauge to read it: it is not asked for then. */
  firm?: number
  last?: { pedal_force_n: number; travel_mm: number; seconds: number; engine: string }
}>()
const emit = defineEmits<{ read: [{ pedal_force_n: number; travel_mm: number; seconds: number; engine: string }] }>()
interface Typed {
  force: number | null
  start: number | null
  end: number | null
  seconds: number | null
  /** Null until somebody says: as the core does it on this vehicle. */
  engine: string | null
}
const job = useJob()
const begin = (): Typed => ({
  force: props.last?.pedal_force_n ?? 200,
  start: null,
  end: null,
  seconds: props.last?.seconds ?? null,
  engine: props.last?.engine ?? null,
})
// What is half typed outlives a reload; the clock is the job's own and runs on whatever happens to this page.
const typed = useKept<Typed>('hold.' + props.phase, begin())
const field = <K extends keyof Typed>(k: K) =>
  computed<Typed[K]>({
    get: () => typed.value[k],
    set: (v) => (typed.value = { ...typed.value, [k]: v }),
  })
const [force, start, end, seconds, said] = [
  field('force'),
  field('start'),
  field('end'),
  field('seconds'),
  field('engine'),
]
const engine = computed({
  get: () => said.value ?? job.normal?.hold_engine ?? 'off',
  set: (v) => (said.value = v),
})
const { running, elapsed, toggle } = useTimer('hold', () => props.phase)
useAwake(running)
watch(running, (on, was) => {
  if (was && !on) seconds.value = Math.round(elapsed.value * 10) / 10
})
const shownSeconds = computed(() => (running.value ? elapsed.value : (seconds.value ?? 0)))
// Heights are of the pedal over the floor: the end is the lower one.
const sunk = computed(() => (start.value != null && end.value != null ? start.value - end.value : null))
const ready = computed(
  () =>
    !running.value && (props.firm || force.value) && sunk.value != null && sunk.value >= 0 && (seconds.value ?? 0) >= 1,
)
function store() {
  emit('read', {
    pedal_force_n: props.firm ?? force.value!,
    travel_mm: Math.round(sunk.value! * 100) / 100,
    seconds: seconds.value!,
    engine: engine.value,
  })
  typed.value = { ...begin(), force: force.value, engine: said.value }
}
</script>

<template>
  <form class="hold" @submit.prevent="ready && store()">
    <p class="small">{{ t('test_how.hold') }}</p>
    <TraceTake :phase="phase" finding="pedal.sink" :firm="firm" />
    <div class="grid">
      <NumField
        v-if="!firm"
        v-model="force"
        name="n"
        :bound="job.pressed"
        :label="t('ui.hold_force')"
        testid="hold-force"
      />
      <TakeLive v-if="!firm" kind="force" @take="(v) => (force = Math.round(v))" />
      <NumField v-model="start" name="mm" bound="hold.travel_mm" :label="t('ui.hold_start')" testid="hold-start" />
      <NumField v-model="end" name="mm" bound="hold.travel_mm" :label="t('ui.hold_end')" testid="hold-end" />
      <NumField
        v-model="seconds"
        name="s"
        bound="hold.seconds"
        :label="t('ui.hold_seconds')"
        testid="hold-seconds"
        unitless
      />
    </div>
    <div class="row">
      <button type="button" class="tap clock" :class="{ on: running }" data-testid="hold-clock" @click="toggle">
        <span class="fig big">{{ shownSeconds.toFixed(1) }} s</span> {{ t(running ? 'ui.stop' : 'ui.start') }}
      </button>
      <Choice
        :value="engine"
        :options="['off', 'on'].map((v) => ({ id: v, label: t('ui.engine_' + v) }))"
        @pick="(v) => v && (engine = v)"
      />
      <span v-if="sunk != null && sunk < 0" class="bad">{{ t('ui.hold_rose') }}</span>
      <button
        class="tap main"
        :disabled="!ready"
        data-testid="hold-store"
        :aria-label="t('ui.save_of', { what: t('test.hold') })"
      >
        {{ t('ui.take_reading') }}
      </button>
    </div>
  </form>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 10px 14px;
  margin: 8px 0 12px;
}
.big {
  font-size: 26px;
  font-weight: 600;
  min-width: 92px;
}
.clock {
  min-width: 200px;
}
.bad {
  color: var(--bad);
}
</style>
