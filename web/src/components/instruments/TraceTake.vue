<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import { freshOf, measuredBy, ofKind, type Kind } from '@/lib/figures'
import { useKeys } from '@/lib/keys'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'
import TraceCame from './TraceCame.vue'
import TraceLine from './TraceLine.vue'

/**
 * A finding drawn by instruments: it draws as it goes and ends at its time; the core says what it comes to and what it was read under,
 * and a hand takes it. A hold begins by itself when a foot stands on the pedal. Shown where the instruments it takes belong to this vehicle.
 */
const props = defineProps<{ phase: string; finding: string; firm?: number }>()
const store = useJob()
const session = useSession()
const draw = computed(() => session.vocabulary?.drawable?.find((d) => d.finding === props.finding))
const takes = computed<Kind[]>(() => draw.value?.takes ?? [])
const lasts = computed(() => draw.value?.seconds ?? 0)
/** The channel that is drawn on the screen: the first it takes that is here, travel before force. */
const shown = computed(() => (takes.value.includes('travel') ? 'travel' : takes.value.find((k) => ofKind(k))))
const two = computed(() => props.finding === 'pressure.gauge')
const possible = computed(() => takes.value[two.value ? 'some' : 'every']((k) => ofKind(k)) && takes.value.length > 0)
const drawn = ref<{ s: number; v: number }[]>([])
const began = ref(0)
const problem = ref<Problem | null>(null)
const out = ref<Schemas['JobTraced'] | null>(null)
const { pause, resume } = useIntervalFn(
  () => {
    const s = (Date.now() - began.value) / 1000
    const f = shown.value && freshOf(shown.value)
    if (f) drawn.value.push({ s, v: f.v })
    if (s >= lasts.value) void end()
  },
  100,
  { immediate: false },
)
function start() {
  byItself.value = false
  problem.value = null
  out.value = null
  engine.value = ''
  kept.value = true
  drawn.value = []
  began.value = Date.now()
  resume()
}
/** From how long on what began by itself was meant as a hold, s. */
const meantS = 15
/** By itself, once for each time a foot comes to stand on it. */
const force = computed(() => (draw.value?.from_n ? (freshOf('force')?.v ?? 0) : 0))
const stands = computed(() => !!draw.value?.from_n && possible.value && force.value >= draw.value.from_n)
const gone = computed(() => !!draw.value?.from_n && force.value < draw.value.from_n / 2)
const byItself = ref(false)
watch(stands, (now) => {
  if (!now || began.value) return
  start()
  byItself.value = true
})
watch(gone, (now) => now && began.value && drawn.value.length > 20 && void end())

async function end() {
  pause()
  const seconds = Math.min(110, (Date.now() - began.value) / 1000)
  began.value = 0
  try {
    const params = { path: { id: store.job!.id } }
    out.value = await ask(api.POST('/api/jobs/{id}/trace', { params, body: { finding: props.finding, seconds } }))
    kept.value = false
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    // A foot that was there for something else was no hold: nobody asked for one.
    if (!byItself.value || seconds >= meantS) problem.value = e.problem
  }
}
/** What was drawn only proposes: it is stored when a hand takes it, and whoever does says whether the engine ran. */
const kept = ref(true)
const engine = ref<'on' | 'off' | ''>('')
const asksEngine = computed(() => props.finding === 'pedal.sink' && !!store.system?.booster)
const proposed = computed(() => (kept.value ? null : out.value))
const may = computed(
  () => !!proposed.value && !proposed.value.came?.under?.rises && (!asksEngine.value || !!engine.value),
)
/** What stands as the finding; of some it is the eye's to say, with the trace beside it. */
function valueOf(c: Schemas['TraceCame']): unknown {
  if (c.sink) {
    const { mm, seconds } = c.sink
    const force = c.force_n || props.firm || 200
    return { pedal_force_n: force, travel_mm: Math.max(0, mm), seconds, engine: engine.value || 'off' }
  }
  if (c.curve) return c.curve.map((p) => ({ pedal_force_n: p.force_n, travel_mm: p.travel_mm, by: 'trace' }))
  if (c.heights) {
    const { first_mm, second_mm, fourth_mm } = c.heights
    return { first_mm, second_mm, fourth_mm }
  }
  return c.reserve
}
function keep() {
  if (!may.value) return
  const x = out.value!
  kept.value = true
  const trace = store.send('trace', { ...x } as never)
  const value = x.came && valueOf(x.came)
  const by = ofKind(shown.value ?? 'travel')
  if (value === undefined || !by) return
  const measured = measuredBy(by, trace)
  store.send('finding', { phase: props.phase, finding: props.finding, value, measured } as never)
}
useKeys({ Enter: () => may.value && keep() })
/** What was drawn before and is stored, until something is drawn anew. */
const stored = computed(() => store.job?.state.traces?.filter((x) => x.finding === props.finding).at(-1))
const points = computed(() =>
  drawn.value.length > 1 ? drawn.value : (stored.value?.channels[0]?.buckets ?? []).map((b) => ({ s: b.s, v: b.v })),
)
const came = computed(() => out.value?.came ?? stored.value?.came)
const left = computed(() => Math.max(0, Math.round(lasts.value - (drawn.value.at(-1)?.s ?? 0))))
</script>

<template>
  <div v-if="possible" class="take" data-testid="trace-take">
    <div class="row">
      <button v-if="!began" type="button" class="tap main" data-testid="trace-start" @click="start">
        {{ t('draw.' + finding) }}
      </button>
      <button v-else type="button" class="tap" data-testid="trace-end" @click="end">
        {{ t('instrument.end', { s: left }) }}
      </button>
      <span v-if="!began && draw?.from_n && ofKind('force')" class="small">{{ t('instrument.by_itself') }}</span>
      <TraceCame v-if="came && !began" :came="came" />
    </div>
    <div v-if="proposed && !began" class="row" data-testid="trace-proposed">
      <Choice
        v-if="asksEngine"
        :label="t('instrument.engine_was')"
        :value="engine"
        :options="['on', 'off'].map((id) => ({ id, label: t('ui.engine_' + id) }))"
        testid="trace-engine"
        @pick="(v) => (engine = v === 'on' || v === 'off' ? v : '')"
      />
      <button type="button" class="tap main" :disabled="!may" data-testid="trace-keep" @click="keep">
        {{ t('instrument.take_it') }}
      </button>
      <span class="small">{{ t('instrument.not_kept') }}</span>
    </div>
    <TraceLine :points="points" :seconds="lasts" />
    <Faults v-if="problem" :problem="problem" />
  </div>
</template>

<style scoped>
.take {
  margin: 8px 0;
  flex: 1 1 100%;
}
</style>
