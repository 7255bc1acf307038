<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import Choice from './Choice.vue'
import CutAway from './CutAway.vue'
import Faults from './Faults.vue'
import Fig from './Fig.vue'
import PedalPlot from './PedalPlot.vue'
import TwinControls from './TwinControls.vue'
import { useKeys } from '@/lib/keys'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useTwin, type ShownFault } from '@/stores/twin'

/** The twin to play with: press its pedal, stop its engine, fail a circuit, and see a fault beside the sound system. */
const props = defineProps<{ faults?: (ShownFault & { label: string })[] }>()
const job = useJob()
const twin = useTwin()
twin.fault = null
const key = (f: ShownFault | null) => (f ? `${f.id} ${f.at ?? ''}` : '')
const options = computed(() => [
  { id: '', label: t('ui.twin_sound') },
  ...(props.faults ?? []).map((f) => ({ id: key(f), label: f.label })),
])
function show(f: ShownFault | null) {
  twin.fault = f
  void twin.refresh()
}
function pick(id: string | null) {
  picked.value = true
  show(props.faults?.find((f) => key(f) === id) ?? null)
}
const panel = ref<HTMLElement | null>(null)
/** By the key it is brought into sight; under a finger it stays where it was tapped. */
const bring = ref(false)
async function toggle(byKey = true) {
  bring.value = byKey
  twin.open = !twin.open
  await twin.refresh()
}
// The panel has its whole height only once its figures are drawn.
watch(
  () => twin.open && twin.view !== null,
  (drawn) => drawn && bring.value && panel.value?.scrollIntoView({ block: 'start', behavior: 'smooth' }),
  { flush: 'post' },
)
// The likeliest fault is what there is to see first; after that what was picked stays, while it is still suspected.
const picked = ref(false)
watch(
  () => [twin.open, (props.faults ?? []).map(key).join()],
  () => {
    if (!twin.open) return
    const known = props.faults?.some((f) => key(f) === key(twin.fault))
    if (!picked.value || (twin.fault && !known)) show(props.faults?.[0] ?? null)
  },
)
watch(
  () => job.revision,
  () => twin.refresh(),
  { immediate: true },
)
onBeforeUnmount(() => (twin.fault = null))
useKeys({
  t: () => void toggle(),
  arrowleft: () => twin.press(-1),
  arrowright: () => twin.press(1),
  e: () => {
    twin.assist = !twin.assist
    void twin.refresh()
  },
})
const second = computed(() => job.system?.circuits[1]?.id ?? '')
const pedal = computed(() => job.system?.pedal ?? job.system?.actuator)
const slack = computed(() => Math.max(0, twin.view?.gap_mm ?? 0) + (job.system?.pedal?.free_play_mm ?? 0))
const traces = computed(() => {
  const points = twin.view?.points ?? []
  const sound = { label: t('ui.twin_sound'), points: points.map((p) => ({ x: p.force_n, y: p.sound_travel_mm })) }
  const same = !twin.fault && !twin.tried
  if (same) return [{ ...sound, style: 'thick' as const }]
  return [
    { ...sound, style: 'thin' as const },
    {
      label: t('ui.twin_shown'),
      style: 'thick' as const,
      points: points.map((p) => ({ x: p.force_n, y: p.travel_mm })),
    },
  ]
})
const brakes = computed(() => (twin.view?.points.at(-1)?.sound_deceleration_mps2 ?? 0) > 0) // a clutch stops nothing
const cap = (v: number) => Math.min(v, twin.view?.grip_mps2 ?? v)
const beyond = computed(() => (twin.now?.deceleration_mps2 ?? 0) > (twin.view?.grip_mps2 ?? Infinity))
</script>

<template>
  <section ref="panel" class="field" data-testid="twin-panel">
    <header>
      <h2>{{ t('ui.twin_try') }}</h2>
      <button type="button" class="tap" :aria-expanded="twin.open" data-testid="twin-toggle" @click="toggle(false)">
        {{ t(twin.open ? 'ui.twin_close' : 'ui.twin_open') }}
      </button>
    </header>
    <p v-if="!twin.open" class="small">{{ t('ui.twin_try_why') }}</p>
    <Faults v-else-if="twin.problem" :problem="twin.problem" />
    <template v-else-if="twin.view && twin.now">
      <Choice
        v-if="options.length > 1"
        :value="key(twin.fault)"
        :options="options"
        :label="t('ui.twin_what')"
        testid="twin-fault"
        @pick="pick"
      />
      <p v-if="twin.fault && !twin.view.physical" class="caution">{{ t('ui.twin_unseen') }}</p>
      <p v-else-if="twin.fault" class="small">{{ t(twin.view.measured ? 'ui.twin_fitted' : 'ui.twin_middle') }}</p>
      <TwinControls />
      <div class="views">
        <div>
          <CutAway
            :cylinder="twin.view.cylinder"
            :point="twin.now"
            :ratio="pedal?.ratio ?? 1"
            :slack="slack"
            :floor="pedal?.floor_mm"
            :second="second"
          />
          <table>
            <thead>
              <tr>
                <th></th>
                <th>{{ t('ui.twin_sound') }}</th>
                <th>{{ t('ui.twin_shown') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr>
                <th scope="row">{{ t(job.isTrailer ? 'ui.travel_coupler' : 'ui.travel') }}</th>
                <td><Fig name="mm" :value="twin.now.sound_travel_mm" /></td>
                <td data-testid="twin-travel"><Fig name="mm" :value="twin.now.travel_mm" /></td>
              </tr>
              <tr v-if="brakes">
                <th scope="row">{{ t('ui.twin_demand') }}</th>
                <td><Fig name="mps2" :value="cap(twin.now.sound_deceleration_mps2)" /></td>
                <td><Fig name="mps2" :value="cap(twin.now.deceleration_mps2)" /></td>
              </tr>
              <tr>
                <th scope="row">{{ t('ui.twin_sink') }}</th>
                <td><Fig name="mm" :value="0" /></td>
                <td><Fig name="mm" :value="twin.now.sink_20s_mm" /></td>
              </tr>
            </tbody>
          </table>
          <p v-if="twin.now.floored" class="caution">{{ t('ui.twin_floored') }}</p>
          <p v-else-if="twin.now.bottomed.length" class="caution">
            {{ t('ui.twin_bottomed', { list: twin.now.bottomed.join(', ') }) }}
          </p>
          <p v-if="beyond" class="small">{{ t('ui.twin_grip') }}</p>
        </div>
        <PedalPlot
          :traces="traces"
          :band="twin.view.points.map((p) => ({ x: p.force_n, low: p.low_mm, high: p.high_mm }))"
          :now="{ x: twin.now.force_n, y: twin.now.travel_mm }"
          :floor="pedal?.floor_mm"
          :coupler="job.isTrailer"
        />
      </div>
      <p class="small">{{ t('caution.twin') }}</p>
    </template>
  </section>
</template>

<style scoped>
.views {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 18px;
  align-items: start;
}
table {
  width: 100%;
}
th {
  font-weight: 400;
  text-align: left;
}
thead th,
td {
  text-align: right;
}
th,
td {
  padding: 3px 0;
}
@media (max-width: 760px) {
  .views {
    grid-template-columns: 1fr;
  }
}
</style>
