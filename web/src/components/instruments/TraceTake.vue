<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import { liveOf, ofKind } from '@/lib/figures'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/**
 * A hold or a slow apply by instrument: it draws as it goes, ends at its time and is stored with its trace; the core says what it
 * comes to. Shown where the pedal's travel is measured.
 */
const props = defineProps<{ phase: string; finding: 'pedal.sink' | 'pedal.readings'; firm?: number }>()
const store = useJob()
/** A hold settles for five seconds and is held for forty-five; a slow apply takes twenty. */
const lasts = computed(() => (props.finding === 'pedal.sink' ? 50 : 20))
const drawn = ref<{ s: number; v: number }[]>([])
const began = ref(0)
const problem = ref<Problem | null>(null)
const out = ref<Schemas['ServerTraceOut'] | null>(null)
const travel = computed(() => ofKind('travel'))
const possible = computed(() => travel.value && (props.finding === 'pedal.sink' || ofKind('force')))
const { pause, resume } = useIntervalFn(
  () => {
    const s = (Date.now() - began.value) / 1000
    const f = liveOf('travel')
    if (f) drawn.value.push({ s, v: f.v })
    if (s >= lasts.value) void end()
  },
  100,
  { immediate: false },
)
function start() {
  Object.assign(problem, { value: null })
  out.value = null
  drawn.value = []
  began.value = Date.now()
  resume()
}
async function end() {
  pause()
  const seconds = Math.min(110, (Date.now() - began.value) / 1000)
  began.value = 0
  try {
    const params = { path: { id: store.job!.id } }
    out.value = await ask(api.POST('/api/jobs/{id}/trace', { params, body: { finding: props.finding, seconds } }))
    keep(out.value)
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    problem.value = e.problem
  }
}
function keep(x: Schemas['ServerTraceOut']) {
  const { finding, seconds, channels, slope } = x
  const trace = store.send('trace', { finding, seconds, channels, slope })
  const i = travel.value!
  const measured = { id: i.id, name: i.name, kind: i.kind, holds_until: i.holds_until || undefined, trace }
  const value = x.sink
    ? {
        pedal_force_n: x.force_n || props.firm || 200,
        travel_mm: x.sink.mm,
        seconds: x.sink.seconds,
        engine: store.normal?.hold_engine ?? 'off',
      }
    : (x.curve ?? []).map((p) => ({ pedal_force_n: p.force_n, travel_mm: p.travel_mm, by: 'trace' }))
  store.send('finding', { phase: props.phase, finding: props.finding, value, measured } as never)
}
/** What was drawn before and is stored, until something is drawn anew. */
const stored = computed(() => {
  const buckets = store.job?.state.traces?.filter((x) => x.finding === props.finding).at(-1)?.channels[0]?.buckets ?? []
  return buckets.map((b) => ({ s: b.s, v: b.v }))
})
const line = computed(() => {
  const list = drawn.value.length > 1 ? drawn.value : stored.value
  if (list.length < 2) return ''
  const low = Math.min(...list.map((p) => p.v))
  const high = Math.max(...list.map((p) => p.v), low + 1)
  return list
    .map((p) => `${((300 * p.s) / lasts.value).toFixed(1)},${(10 + (80 * (p.v - low)) / (high - low)).toFixed(1)}`)
    .join(' ')
})
const left = computed(() => Math.max(0, Math.round(lasts.value - (drawn.value.at(-1)?.s ?? 0))))
</script>

<template>
  <div v-if="possible" class="take" data-testid="trace-take">
    <div class="row">
      <button v-if="!began" type="button" class="tap main" data-testid="trace-start" @click="start">
        {{ t(finding === 'pedal.sink' ? 'instrument.hold' : 'instrument.curve') }}
      </button>
      <button v-else type="button" class="tap" data-testid="trace-end" @click="end">
        {{ t('instrument.end', { s: left }) }}
      </button>
      <span v-if="out?.sink" data-testid="trace-sink">
        <Fig name="mm" :value="out.sink.mm" /> (<Fig name="mm" :value="out.sink.low_mm" />–<Fig
          name="mm"
          :value="out.sink.high_mm"
        />) / {{ out.sink.seconds }} s
      </span>
      <span v-if="out?.curve">{{ t('instrument.points', { n: out.curve.length }) }}</span>
    </div>
    <svg
      v-if="line"
      viewBox="0 0 300 100"
      preserveAspectRatio="none"
      width="100%"
      height="90"
      role="img"
      :aria-label="t('instrument.drawn')"
    >
      <path d="M0 10H300M0 90H300" class="rail" />
      <polyline :points="line" />
    </svg>
    <Faults v-if="problem" :problem="problem" />
  </div>
</template>

<style scoped>
.take {
  margin: 8px 0;
}
polyline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}
.rail {
  stroke: var(--rule);
  stroke-dasharray: 6 4;
}
</style>
