<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import Fig from './Fig.vue'
import BandSide from './verify/BandSide.vue'
import FluidLegend from './bleed/FluidLegend.vue'
import PointAt from './PointAt.vue'
import PedalPlot from './PedalPlot.vue'
import Schematic from './Schematic.vue'
import { powered } from '@/lib/assist'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'
import { useBleedShown, usePointed } from '@/lib/shown'
import { useJob } from '@/stores/job'
import { useTwin } from '@/stores/twin'

/** The vehicle beside the work: its schematic and what the twin says is normal for it. */
const session = useSession()
const store = useJob()
const route = useRoute()
const bleed = useBleedShown()
const traces = computed(() =>
  store.normal
    ? [
        {
          label: t(store.isTrailer ? 'ui.coupler' : 'ui.assisted'),
          style: 'thick' as const,
          points: store.normal.with_assist.map((p) => ({ x: p.force_n, y: p.travel_mm })),
        },
        ...(store.isTrailer || !powered(store.assist)
          ? []
          : [
              {
                label: t('ui.unassisted'),
                style: 'dashed' as const,
                points: store.normal.without_assist.map((p) => ({ x: p.force_n, y: p.travel_mm })),
              },
            ]),
      ]
    : [],
)
const plot = computed(() => ['intake', 'diagnose', 'replace', 'record'].includes(String(route.name)))
const twin = useTwin()
/** While the twin is being played with, the drawing shows what it does. */
const played = computed(() =>
  twin.open && ['diagnose', 'match', 'verify'].includes(String(route.name)) ? twin.now?.wheel_mpa : undefined,
)
/** What a sound one shows stands where something is held against it. */
const compared = computed(() => ['intake', 'diagnose', 'verify'].includes(String(route.name)))
/** Where the drawing can be pointed at: to correct a figure, to find the signs of a place. */
const pointable = computed(() => ['intake', 'diagnose'].includes(String(route.name)))
const pointed = usePointed()
const point = (part: string) => Object.assign(pointed, { part, n: pointed.n + 1 })
/** Once there is a verdict it has this place: the drawing stays where it is, the figures make room. */
const lean = computed(
  () => route.name === 'diagnose' && Object.keys(store.job?.state.findings?.diagnose ?? {}).length > 0,
)
const bleeding = computed(() => route.name === 'bleed')
</script>

<template>
  <div class="field side" data-testid="twin-side">
    <component
      :is="pointable ? PointAt : 'div'"
      v-if="store.system && route.name !== 'verify'"
      :system="store.system"
      @pick="point"
    >
      <Schematic
        :system="store.system"
        :pressures="played ?? store.normal?.wheel_mpa"
        :current="bleeding ? bleed.current : undefined"
        :done="bleeding ? bleed.done : undefined"
        :level="bleeding ? bleed.level : undefined"
        :fluid="bleeding ? bleed.fluid : undefined"
        class="drawing"
      />
    </component>
    <div v-if="!lean" class="numbers">
      <FluidLegend v-if="bleeding && bleed.fluid" :fluid="bleed.fluid" />
      <template v-else-if="store.normal && compared">
        <p class="small">{{ t('ui.twin_normal') }}</p>
        <table>
          <tbody>
            <tr>
              <th scope="row">
                {{ t(store.isTrailer ? 'ui.travel_coupler_at' : 'ui.travel_at') }}
                <Fig name="n" :value="store.normal.force_n" />
              </th>
              <td><Fig name="mm" :value="store.normal.at_300n_travel_mm" /></td>
            </tr>
            <tr v-for="(p, c) in store.normal.at_300n_mpa" :key="c">
              <th scope="row">{{ t('ui.circuit', { id: c }) }}</th>
              <td><Fig name="mpa" :value="p" /></td>
            </tr>
            <tr v-if="store.normal.reserve">
              <th scope="row">{{ t('ui.reserve') }}</th>
              <td class="fig">{{ store.normal.reserve }}</td>
            </tr>
          </tbody>
        </table>
        <p v-for="d in store.normal.doubts" :key="d.path + d.code" class="caution">
          {{ say(d.code, d.with ?? {}, session.pref) }}
        </p>
      </template>
    </div>
    <BandSide v-if="route.name === 'verify'" class="plot" />
    <PedalPlot
      v-else-if="plot && !lean && traces.length"
      class="plot"
      :traces="traces"
      :floor="store.system?.pedal?.floor_mm"
      :coupler="store.isTrailer"
    />
    <p v-if="!lean" class="small plot">{{ t('caution.twin') }}</p>
  </div>
</template>

<style scoped>
.side {
  padding: 8px 14px 12px;
}
th {
  font-weight: 400;
}
td {
  text-align: right;
}
td,
th {
  padding: 3px 0;
}
@media (max-width: 1000px) {
  .side {
    display: grid;
    grid-template-columns: 300px 1fr;
    gap: 16px;
    align-items: center;
  }
  .plot {
    display: none;
  }
}
@media (max-width: 560px) {
  .side {
    grid-template-columns: 1fr;
  }
  .numbers {
    display: none;
  }
}
</style>
