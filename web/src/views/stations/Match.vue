<script setup lang="ts">
import { computed, ref, watchEffect } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas, Unit } from '@/api/client'
import BoosterMatch from '@/components/match/BoosterMatch.vue'
import FoldAway from '@/components/FoldAway.vue'
import Faults from '@/components/Faults.vue'
import FluidInHand from '@/components/match/FluidInHand.vue'
import InHand from '@/components/match/InHand.vue'
import Fig from '@/components/Fig.vue'
import PedalPlot, { type Trace } from '@/components/PedalPlot.vue'
import Unexplained from '@/components/Unexplained.vue'
import NothingFits from '@/components/match/NothingFits.vue'
import OwnUnit from '@/components/match/OwnUnit.vue'
import PerformanceTable from '@/components/match/PerformanceTable.vue'
import OldUnit from '@/components/match/OldUnit.vue'
import ScopePick from '@/components/match/ScopePick.vue'
import UnitShown from '@/components/match/UnitShown.vue'
import UnitTable from '@/components/match/UnitTable.vue'
import WhichBore from '@/components/match/WhichBore.vue'
import { useChoices } from '@/lib/choices'
import { useStation } from '@/lib/station'
import { useMatchShown } from '@/lib/shown'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

const store = useJob()
const { view, problem } = useStation('match')
const { choices, set } = useChoices()
const empty: Unit = {
  id: 'old',
  maker: '',
  number: '',
  bore_mm: null,
  ports: [],
  stud_spacing_mm: null,
  studs: 0,
  pocket_mm: null,
  face_seal: '',
  sensor: '',
  variant: '',
  residual_mpa: null,
  reservoir: '',
  contents: [],
}
const old = computed<Unit>(() => choices.value.old_unit ?? empty)
const chambers = computed(() => {
  const m = store.system!.master_cylinder
  return m.secondary
    ? [
        { circuit: m.secondary.circuit, position: 'front' },
        { circuit: m.primary.circuit, position: 'rear' },
      ]
    : [{ circuit: m.primary.circuit, position: 'rear' }]
})
const shown = ref<string | null>(null)
const candidate = computed(
  () =>
    view.value?.candidates.find((c) => c.unit.id === (shown.value ?? choices.value.unit?.id)) ??
    view.value?.candidates[0],
)
const toPoints = (c: Schemas['JobCurvePoint'][]) => c.map((p) => ({ x: p.force_n, y: p.travel_mm }))
const traces = computed<Trace[]>(() => {
  if (!view.value) return []
  const out: Trace[] = [{ label: t('ui.present'), style: 'dashed', points: toPoints(view.value.present) }]
  if (candidate.value)
    out.push({
      label: `${candidate.value.unit.maker} ${candidate.value.unit.number}`,
      style: 'thick',
      points: toPoints(candidate.value.curve),
    })
  return out
})
const beside = useMatchShown()
watchEffect(() => Object.assign(beside, { c: candidate.value ?? null, old: old.value, traces: traces.value }))
const ownUnit = ref<InstanceType<typeof OwnUnit> | null>(null)
function measureOwn() {
  ownUnit.value?.open()
  ;(ownUnit.value?.$el as HTMLElement | undefined)?.scrollIntoView({ block: 'start' })
}
function choose(u: Unit) {
  void set({ unit: choices.value.unit?.id === u.id ? null : u })
}
const nameOf = (id: string) => {
  const c = [...(view.value?.candidates ?? []), ...(view.value?.boosters ?? [])].find((x) => x.unit.id === id)
  return c ? `${c.unit.maker} ${c.unit.number}` : id
}
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <template v-if="view">
    <ScopePick :view="view" />
    <Unexplained :facts="view.unexplained" />
    <NothingFits :view="view" @measure="measureOwn" />
    <OldUnit v-if="view.fits_cylinder" :view="view" :old="old" :chambers="chambers" />

    <section v-if="view.fits_cylinder" class="field" data-testid="units-here">
      <header>
        <h2>{{ t('ui.shelf') }}</h2>
        <span class="small">{{ t('ui.shelf_note') }}</span>
      </header>
      <p v-if="!view.candidates.length">{{ t('ui.shelf_empty') }}</p>
      <p v-for="l in view.look_alikes" :key="l.fits + l.does_not" class="caution" data-testid="look-alike">
        {{
          t('ui.look_alike', {
            fits: nameOf(l.fits),
            not: nameOf(l.does_not),
            point: t('point.' + l.point).toLowerCase(),
          })
        }}
      </p>
      <UnitTable
        v-if="view.candidates.length"
        :list="view.candidates"
        :shown="candidate?.unit.id"
        @show="(id) => (shown = id)"
        @choose="(c) => choose(c.unit)"
      />
    </section>

    <section v-if="view.fits_cylinder && candidate" class="field two-up narrow">
      <UnitShown :c="candidate" :old="old" />
      <div>
        <h3>{{ t('ui.pedal_after') }}</h3>
        <p class="small">
          {{ t('ui.at') }} <Fig name="n" :value="store.normal?.force_n" />:
          <Fig name="mm" :value="candidate.travel_mm" />, <Fig name="mpa" :value="candidate.pressure_mpa" />
        </p>
        <PedalPlot :traces="traces" :floor="store.system?.pedal?.floor_mm" :coupler="store.isTrailer" />
        <p class="small">{{ t('caution.twin') }}</p>
      </div>
    </section>

    <BoosterMatch v-if="view.fits_booster" :view="view" :empty="empty" :shown="shown" @show="(id) => (shown = id)" />

    <FoldAway v-if="view.fits_cylinder" :title="t('ui.performance')">
      <PerformanceTable
        :present="view.now"
        :candidate="candidate?.performance ?? null"
        :name="candidate ? `${candidate.unit.maker} ${candidate.unit.number}` : ''"
      />
    </FoldAway>
    <FoldAway v-if="view.bores.length" :title="t('ui.which_bore')">
      <WhichBore :bores="view.bores" :limits="view.limits" />
    </FoldAway>
    <OwnUnit v-if="view.fits_cylinder" ref="ownUnit" :empty="empty" :old="old" :chambers="chambers" />
    <InHand :kit="view.kit" />
    <FluidInHand :view="view" />
    <div class="dock row">
      <strong
        >{{ t('scope.' + choices.scope)
        }}{{ choices.unit ? ': ' + choices.unit.maker + ' ' + choices.unit.number : '' }}</strong
      >
      <RouterLink class="tap main" :to="{ name: 'replace' }" data-testid="to-replace">{{
        t('ui.go_replace')
      }}</RouterLink>
    </div>
  </template>
</template>

<style scoped>
@media (min-width: 1001px) {
  .narrow {
    display: none !important;
  }
}
.two-up {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 340px), 1fr));
  gap: 8px 24px;
}
</style>
