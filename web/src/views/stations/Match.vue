<script setup lang="ts">
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas, Unit } from '@/api/client'
import BoosterMatch from '@/components/BoosterMatch.vue'
import Candidate from '@/components/Candidate.vue'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import FluidInHand from '@/components/FluidInHand.vue'
import InHand from '@/components/InHand.vue'
import Fig from '@/components/Fig.vue'
import PedalPlot, { type Trace } from '@/components/PedalPlot.vue'
import OwnUnit from '@/components/OwnUnit.vue'
import PerformanceTable from '@/components/PerformanceTable.vue'
import UnitMeasure from '@/components/UnitMeasure.vue'
import WhichBore from '@/components/WhichBore.vue'
import { useChoices } from '@/lib/choices'
import { useStation } from '@/lib/station'
import { has, t } from '@/lib/words'
import { useJob } from '@/stores/job'

const store = useJob()
const { view, problem } = useStation('match')
const { choices, set } = useChoices()
const measuring = ref(!store.job!.choices.old_unit)
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
function choose(u: Unit) {
  void set({ unit: choices.value.unit?.id === u.id ? null : u })
}
function fromVehicle() {
  const v = view.value!.from_vehicle
  void set({
    old_unit: {
      ...old.value,
      bore_mm: v.bore_mm,
      stroke_mm: v.stroke_mm,
      residual_mpa: old.value.residual_mpa ?? v.residual_mpa,
    },
  })
}
const nameOf = (id: string) => {
  const c = [...(view.value?.candidates ?? []), ...(view.value?.boosters ?? [])].find((x) => x.unit.id === id)
  return c ? `${c.unit.maker} ${c.unit.number}` : id
}
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <template v-if="view">
    <section class="field">
      <header>
        <h2>{{ t('ui.scope') }}</h2>
      </header>
      <Choice
        :value="choices.scope"
        :options="view.scopes.map((s) => ({ id: s, label: t('scope.' + s) }))"
        testid="scope"
        @pick="(v) => v && set({ scope: v })"
      />
      <p v-if="view.proposed && view.proposed !== choices.scope" class="row gap" data-testid="proposed">
        {{ t('ui.proposed', { scope: t('scope.' + view.proposed) }) }}
        <button type="button" class="tap main" data-testid="take-proposal" @click="set({ scope: view.proposed })">
          {{ t('ui.take_proposal') }}
        </button>
      </p>
      <p v-if="choices.scope === 'elsewhere'" class="gap">{{ t('plan.no_bleeding.elsewhere') }}</p>
      <p v-else-if="!view.opens_hydraulics" class="caution gap" data-testid="no-bleeding">
        {{ t('plan.no_bleeding.cylinder_aside') }} {{ t('caution.lines_must_flex') }}
      </p>
    </section>

    <section v-if="view.fits_cylinder" class="field">
      <header>
        <h2>{{ t('ui.old_unit') }}</h2>
        <span class="row">
          <button v-if="!old.bore_mm" type="button" class="tap" data-testid="from-vehicle" @click="fromVehicle">
            {{ t('ui.take_from_vehicle') }}
          </button>
          <button type="button" class="tap" :aria-expanded="measuring" @click="measuring = !measuring">
            {{ t(measuring ? 'ui.fold' : 'ui.measure') }}
          </button>
        </span>
      </header>
      <p v-if="choices.old_unit" class="small">
        {{ t('ui.old_rebuildable') }}: {{ t('ui.rebuild.' + view.old_rebuildable) }}
      </p>
      <UnitMeasure v-if="measuring" name="old" :unit="old" :chambers="chambers" @change="(u) => set({ old_unit: u })" />
      <p v-else class="fig">
        {{ t('point.bore') }} <Fig name="mm" :value="old.bore_mm" />, {{ t('point.mounting') }} {{ old.studs }} ×
        <Fig name="mm" :value="old.stud_spacing_mm" />, {{ t('point.pocket') }}
        <Fig name="mm" :value="old.pocket_mm" />,
        <template v-for="p in old.ports" :key="p.position"
          >{{ t('point.port_' + p.position) }} {{ p.thread }},
        </template>
        {{ old.sensor && has('spec.' + old.sensor) ? t('point.sensor') + ' ' + t('spec.' + old.sensor) : '' }}
      </p>
    </section>

    <OwnUnit v-if="view.fits_cylinder" :empty="empty" :chambers="chambers" />

    <section v-if="view.fits_cylinder" class="field">
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
      <Candidate
        v-for="c in view.candidates"
        :key="c.unit.id"
        :c="c"
        :shown="candidate?.unit.id === c.unit.id"
        @show="shown = c.unit.id"
        @choose="choose(c.unit)"
      />
    </section>

    <BoosterMatch v-if="view.fits_booster" :view="view" :empty="empty" :shown="shown" @show="(id) => (shown = id)" />

    <section v-if="view.fits_cylinder" class="field">
      <header>
        <h2>{{ t('ui.performance') }}</h2>
      </header>
      <PerformanceTable
        :present="view.now"
        :candidate="candidate?.performance ?? null"
        :name="candidate ? `${candidate.unit.maker} ${candidate.unit.number}` : ''"
      />
    </section>
    <section v-if="view.bores.length" class="field">
      <header>
        <h2>{{ t('ui.which_bore') }}</h2>
      </header>
      <WhichBore :bores="view.bores" :limits="view.limits" />
    </section>

    <section v-if="view.fits_cylinder && candidate" class="field">
      <header>
        <h2>{{ t('ui.pedal_after') }}</h2>
        <span class="small"
          >{{ t('ui.at') }} <Fig name="n" :value="store.normal?.force_n" />:
          <Fig name="mm" :value="candidate.travel_mm" />, <Fig name="mpa" :value="candidate.pressure_mpa"
        /></span>
      </header>
      <PedalPlot :traces="traces" :floor="store.system?.pedal?.floor_mm" :coupler="store.isTrailer" />
      <p class="small">{{ t('caution.twin') }}</p>
    </section>

    <InHand :kit="view.kit" />
    <FluidInHand :view="view" />
    <TwinPanel class="gap" />
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
.gap {
  margin-top: 12px;
}
</style>
