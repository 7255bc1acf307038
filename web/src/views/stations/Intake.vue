<script setup lang="ts">
import { NInput } from 'naive-ui'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas, type System } from '@/api/client'
import FoldAway from '@/components/FoldAway.vue'
import PatternPick from '@/components/PatternPick.vue'
import Faults from '@/components/Faults.vue'
import DateField from '@/components/DateField.vue'
import HandsAndTools from '@/components/intake/HandsAndTools.vue'
import KeepPattern from '@/components/intake/KeepPattern.vue'
import KnownVehicle from '@/components/KnownVehicle.vue'
import NumField from '@/components/NumField.vue'
import SystemForm from '@/components/SystemForm.vue'
import { drafts } from '@/lib/drafts'
import { usePointed } from '@/lib/shown'
import { t } from '@/lib/words'
import { useJob, type Intake } from '@/stores/job'
import { useSession } from '@/stores/session'

const store = useJob()
const session = useSession()
const router = useRouter()
const copy = <T,>(v: T): T => JSON.parse(JSON.stringify(v))

// What is typed is kept on this device until it is stored, so that a reload loses nothing.
const id = store.job!.id
const kept = drafts.get<Intake>('intake', id)
const draft = ref<Intake>(kept ? kept.value : copy(store.job!.intake))
// The version the draft began from goes with it: an edit that comes in meanwhile must not make it look fresh.
const base = ref(kept?.base ?? store.seen.intake)
const forget = () => drafts.drop('intake', id)
const keep = () => drafts.put('intake', id, { base: base.value, value: draft.value, said: false })
function takeStored() {
  draft.value = copy(store.job!.intake)
  base.value = store.seen.intake
}
const dirty = computed(() => JSON.stringify(draft.value) !== JSON.stringify(store.job!.intake))
watch(
  () => store.job!.intake_version,
  () => {
    if (!drafts.get('intake', id)) takeStored()
  },
)

// A clash was settled: what stands on the screen is what was chosen, not the draft that came too late.
watch(
  () => store.conflict,
  (now, was) => {
    if (!now && was?.part === 'intake') takeStored()
  },
)

const faults = useTemplateRef<HTMLElement>('faults')
const found = ref<Schemas['StrictFault'][]>([])
let checks = 0
async function checkNow() {
  // What a half typed figure was told must not stand beside the whole one.
  const mine = ++checks
  try {
    const r = await ask(api.POST('/api/systems/check', { body: draft.value.system as never }))
    if (mine !== checks) return r.faults
    found.value = r.faults
    if (r.normal && dirty.value) store.normal = r.normal
    return r.faults
  } catch {
    found.value = []
    return []
  }
}
const check = useDebounceFn(checkNow, 250)
watch(
  draft,
  () => {
    if (dirty.value) keep()
    else forget()
    void check()
  },
  { deep: true },
)
function choosePattern(id: string, own?: Schemas['JobOwnPattern']) {
  const p = own ? { id, system: own.system } : session.vocabulary?.patterns.find((x) => x.id === id)
  if (p?.system) Object.assign(draft.value, { pattern: p.id, system: copy(p.system) })
}
async function save(next: boolean) {
  // The button is never shut under a hand: what is wrong is told when it is pressed.
  // What counts is this look's own answer: a later one may be on its way and take its place on the screen.
  if (found.value.length && (await checkNow()).length) return faults.value?.scrollIntoView({ block: 'center' })
  forget()
  const sent = copy(draft.value)
  if (await store.saveIntake(sent, base.value)) {
    // What was typed while it was on its way is an edit of what is stored now.
    if (JSON.stringify(draft.value) === JSON.stringify(sent)) takeStored()
    else base.value = store.seen.intake
    if (next) await router.push({ name: 'diagnose' })
  } else if (!store.conflict) keep()
}
function back() {
  takeStored()
  void store.loadNormal()
}
const pointed = usePointed()
const from = pointed.n
const picking = ref(!draft.value.pattern)
/** The pattern the system started from, to tell what is still its figure and what is this vehicle's. */
const started = computed(
  () => session.vocabulary?.patterns.find((p) => p.id === draft.value.pattern)?.system as System | undefined,
)
</script>

<template>
  <section class="field">
    <header>
      <h2>{{ t('ui.complaint') }}</h2>
    </header>
    <NInput
      v-model:value="draft.complaint"
      type="textarea"
      :autosize="{ minRows: 2 }"
      placeholder=""
      data-testid="complaint"
      :input-props="{ 'aria-label': t('ui.complaint') }"
    />
    <KnownVehicle
      :plate="draft.plate"
      :job="store.job!.id"
      @take="(pattern, system, pedal_from) => Object.assign(draft, { pattern, system, pedal_from })"
    />
    <div class="cols gap">
      <label
        ><span class="small">{{ t('ui.vehicle') }}</span
        ><NInput v-model:value="draft.vehicle" placeholder="" data-testid="vehicle"
      /></label>
      <label
        ><span class="small">{{ t('ui.plate') }}</span
        ><NInput v-model:value="draft.plate" placeholder="" data-testid="plate"
      /></label>
      <label
        ><span class="small">{{ t('ui.vin') }}</span
        ><NInput v-model:value="draft.vin" placeholder=""
      /></label>
      <label
        ><span class="small">{{ t('ui.customer') }}</span
        ><NInput v-model:value="draft.customer" placeholder=""
      /></label>
      <NumField
        v-model="draft.distance_km"
        name="km"
        bound="intake.distance_km"
        :label="t('ui.distance')"
        testid="distance"
      />
      <DateField v-model="draft.last_service_at" :label="t('ui.last_service')" testid="last-service" />
      <NumField v-model="draft.last_service_km" name="km" bound="intake.distance_km" :label="t('ui.last_service_km')" />
    </div>
    <details class="gap" :open="!!draft.for_day">
      <summary data-testid="intake-day">{{ t('ui.for_day') }}</summary>
      <div class="cols">
        <DateField
          :model-value="draft.for_day ?? ''"
          :label="t('ui.for_day')"
          testid="intake-for-day"
          @update:model-value="(v) => (draft.for_day = v || undefined)"
        />
        <label
          ><span class="small">{{ t('ui.have_ready') }}</span
          ><NInput
            :value="draft.have_ready ?? ''"
            placeholder=""
            @update:value="(v) => (draft.have_ready = v || undefined)"
        /></label>
      </div>
    </details>
    <label class="gap block"
      ><span class="small">{{ t('ui.done_before') }}</span
      ><NInput v-model:value="draft.done_before" placeholder=""
    /></label>
  </section>

  <section class="field">
    <header>
      <h2>{{ t('ui.system') }}</h2>
      <span class="small">{{ t('ui.system_note') }}</span>
    </header>
    <div class="row spread">
      <strong data-testid="pattern-now">{{
        draft.pattern ? t('pattern.' + draft.pattern) : t('ui.no_pattern')
      }}</strong>
      <button
        type="button"
        class="tap"
        :aria-expanded="picking"
        data-testid="pattern-change"
        @click="picking = !picking"
      >
        {{ t(picking ? 'ui.fold' : 'ui.change') }}
      </button>
    </div>
    <PatternPick
      v-if="picking"
      :value="draft.pattern"
      class="gap"
      @pick="
        (id, own) => {
          choosePattern(id, own)
          picking = false
        }
      "
    />
    <div ref="faults">
      <Faults v-if="found.length" :problem="{ code: 'problem.faults', faults: found }" class="gap" />
    </div>
  </section>
  <FoldAway
    v-if="draft.system"
    :title="t('ui.system_as_it_is')"
    :open="found.length > 0 || pointed.n > from"
    data-testid="system-form"
  >
    <SystemForm v-model="draft.system as System" :faults="found" :pattern="started" />
  </FoldAway>

  <KeepPattern v-if="session.may('change_system') && !dirty && draft.pattern" :id="store.job!.id" />

  <HandsAndTools v-model="draft" />

  <div class="dock row">
    <span v-if="dirty" class="small">{{ t('ui.not_stored') }}</span>
    <button v-if="dirty" class="tap" @click="back">{{ t('ui.throw_away') }}</button>
    <button v-if="dirty" class="tap" @click="save(false)">{{ t('ui.store') }}</button>
    <button class="tap main" data-testid="save-intake" @click="save(true)">{{ t('ui.store_go_diagnose') }}</button>
  </div>
</template>

<style scoped>
.gap {
  margin-top: 12px;
}
.block {
  display: block;
}
</style>
