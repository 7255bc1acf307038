<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas, Unit } from '@/api/client'
import Candidate from '@/components/Candidate.vue'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import NumField from '@/components/NumField.vue'
import PedalPlot, { type Trace } from '@/components/PedalPlot.vue'
import UnitMeasure from '@/components/UnitMeasure.vue'
import { useChoices } from '@/lib/choices'
import { useStation } from '@/lib/station'
import { has, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

const store = useJob()
const session = useSession()
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
const own = computed<Unit>(() => choices.value.own_unit ?? { ...empty, id: 'own', condition: 'new' })
const owning = ref(!!store.job!.choices.own_unit)
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
const kit = computed(() =>
  ['move_over', 'buy', 'in_box'].map((how) => ({ how, items: view.value?.kit.filter((i) => i.how === how) ?? [] })),
)
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
        <button type="button" class="tap" :aria-expanded="measuring" @click="measuring = !measuring">
          {{ t(measuring ? 'ui.fold' : 'ui.measure') }}
        </button>
      </header>
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

    <section v-if="view.fits_cylinder" class="field">
      <header>
        <h2>{{ t('ui.own_unit') }}</h2>
        <button type="button" class="tap" :aria-expanded="owning" data-testid="own" @click="owning = !owning">
          {{ t(owning ? 'ui.fold' : 'ui.measure') }}
        </button>
      </header>
      <template v-if="owning">
        <p class="small">{{ t('ui.own_note') }}</p>
        <div class="cols">
          <label
            ><span class="small">{{ t('ui.maker') }}</span
            ><NInput
              :value="own.maker"
              placeholder=""
              data-testid="own-maker"
              @update:value="(v: string) => set({ own_unit: { ...own, maker: v } })"
          /></label>
          <label
            ><span class="small">{{ t('ui.number') }}</span
            ><NInput
              :value="own.number"
              placeholder=""
              @update:value="(v: string) => set({ own_unit: { ...own, number: v } })"
          /></label>
        </div>
        <UnitMeasure name="own" :unit="own" :chambers="chambers" @change="(u) => set({ own_unit: u })" />
      </template>
    </section>

    <section v-if="view.fits_cylinder" class="field">
      <header>
        <h2>{{ t('ui.shelf') }}</h2>
        <span class="small">{{ t('ui.shelf_note') }}</span>
      </header>
      <p v-if="!view.candidates.length">{{ t('ui.shelf_empty') }}</p>
      <Candidate
        v-for="c in view.candidates"
        :key="c.unit.id"
        :c="c"
        :shown="candidate?.unit.id === c.unit.id"
        @show="shown = c.unit.id"
        @choose="choose(c.unit)"
      />
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

    <section class="field">
      <header>
        <h2>{{ t('ui.in_hand') }}</h2>
      </header>
      <div class="cols">
        <div v-for="k in kit" :key="k.how">
          <h3>{{ t('how.' + k.how) }}</h3>
          <ul>
            <li v-for="i in k.items" :key="i.id">
              {{ t('item.' + i.id) }}
              <span class="small">{{ i.why.startsWith('kit.') ? t(i.why) : '' }}</span>
            </li>
            <li v-if="!k.items.length" class="small">–</li>
          </ul>
        </div>
      </div>
    </section>

    <section class="field">
      <header>
        <h2>{{ t('ui.fluid') }}</h2>
        <span class="small">{{ t('ui.allowed', { list: view.fluid.allowed.join(', ') }) }}</span>
      </header>
      <p v-if="view.opens_hydraulics" class="big" data-testid="fluid-need">
        <strong class="fig">{{ view.fluid.bottles }} × {{ view.fluid.bottle_cm3 }} mL</strong>
        {{ view.fluid.class }}: {{ t('ui.fluid_bleed') }} <Fig name="cm3" :value="view.fluid.bleed_cm3" />,
        {{ t('ui.fluid_unit') }} <Fig name="cm3" :value="view.fluid.unit_cm3" />, {{ t('ui.fluid_margin') }}
        <Fig name="cm3" :value="view.fluid.margin_cm3" />
      </p>
      <p v-else>
        {{ t(choices.scope === 'elsewhere' ? 'plan.no_bleeding.elsewhere' : 'plan.no_bleeding.cylinder_aside') }}
      </p>
      <div v-if="view.opens_hydraulics" class="cols gap">
        <Choice
          :value="choices.bottle.class"
          :label="t('ui.bottle')"
          :options="(session.vocabulary?.fluids ?? []).map((f) => ({ id: f, label: f }))"
          testid="bottle"
          @pick="(v) => v && set({ bottle: { ...choices.bottle, class: v } })"
        />
        <NumField
          :model-value="choices.bottle.water_percent"
          name="percent"
          unitless
          :label="t('ui.bottle_water')"
          :min="0"
          :max="5"
          testid="bottle-water"
          @update:model-value="(v) => set({ bottle: { ...choices.bottle, water_percent: v } })"
        />
        <label
          ><span class="small">{{ t('ui.bottle_opened') }}</span
          ><NInput
            :value="choices.bottle.opened_at"
            placeholder="2026-11-01"
            @change="(v: string) => set({ bottle: { ...choices.bottle, opened_at: v } })"
        /></label>
      </div>
      <p
        v-if="view.bottle.fitness && view.opens_hydraulics"
        :class="view.bottle.allowed ? 'small' : 'problem'"
        class="gap"
      >
        {{ t('fluid.' + view.bottle.fitness)
        }}<template v-if="view.bottle.water"
          >; {{ t('ui.water') }}: {{ t('fluid.' + view.bottle.water) }}, {{ t('ui.boils') }}
          <Fig name="c" :value="view.bottle.boil_c" /> ({{ t('ui.interpolated') }})</template
        >
      </p>
    </section>
    <TwinPanel class="gap" />
    <div class="row gap">
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
.big strong {
  font-size: 26px;
}
ul {
  margin: 4px 0 0;
  padding-left: 18px;
}
</style>
