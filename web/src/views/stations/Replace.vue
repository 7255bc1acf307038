<script setup lang="ts">
import { computed, ref, watch, watchEffect } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import ParkIt from '@/components/ParkIt.vue'
import GateStrip from '@/components/replace/GateStrip.vue'
import FoldAway from '@/components/FoldAway.vue'
import OldUnits from '@/components/replace/OldUnits.vue'
import LineMap from '@/components/replace/LineMap.vue'
import RepairTold from '@/components/replace/RepairTold.vue'
import SchoolPicks from '@/components/replace/SchoolPicks.vue'
import SmallParts from '@/components/replace/SmallParts.vue'
import StepList from '@/components/replace/StepList.vue'
import StepNow from '@/components/replace/StepNow.vue'
import StepsTogether from '@/components/replace/StepsTogether.vue'
import CameOff from '@/components/replace/CameOff.vue'
import TakeBack from '@/components/replace/TakeBack.vue'
import ToldLate from '@/components/replace/ToldLate.vue'
import WhatIsHere from '@/components/replace/WhatIsHere.vue'
import { useOnward } from '@/lib/onward'
import { useReplaceShown } from '@/lib/shown'
import { stepName } from '@/lib/plan'
import { useStation } from '@/lib/station'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import type { EventData } from '@/stores/outbox'

const store = useJob()
const { view, problem } = useStation('replace')
const onward = useOnward('replace')
const shown = useReplaceShown()
const ticks = computed(() => store.job!.state.ticks as Record<string, Schemas['JobTick'] | undefined>)
const steps = computed(() => view.value?.plan.steps ?? [])
/** What stands the core says: a tick is only what was told. */
const done = (id: string) => !view.value?.open.includes(id)
const picked = ref('')
const hand = computed(() => (picked.value && !done(picked.value) ? picked.value : (view.value?.next ?? '')))
const step = computed(() => steps.value.find((s) => s.id === hand.value))
const number = computed(() => steps.value.findIndex((s) => s.id === hand.value) + 1)
const gates = computed(() => steps.value.filter((s) => s.gate))
const fitting = computed(() => step.value?.phase === 'fit' || step.value?.phase === 'set_rod')
/** A repair that leaves both units: what it was is said here. */
const elsewhere = computed(
  () =>
    steps.value.some((s) => s.id === 'elsewhere.repaired') &&
    (hand.value === 'elsewhere.repaired' || done('elsewhere.repaired')),
)
const joint = computed(() => ['strip', 'set_rod', 'fit'].some((p) => steps.value.some((s) => s.phase === p)))
// Asked once, before the work: while somebody taps it stays where it is, and then it folds away below.
const asking = ref<boolean | null>(null)
watch(view, (v) => {
  if (v) asking.value ??= !v.plan.asked && steps.value.length - v.left <= 2
})
watchEffect(() => {
  shown.view = view.value
  shown.hand = hand.value
})
/** The step in hand moved on by what was done here; by anybody else's doing it is not yet this hand's. */
const chosen = ref('')
const ticked = new Set<string>()
let mineUntil = 0 // ms by this page's clock: one tap may tell several steps, and the page follows them one by one
const mineMS = 5000
watch(hand, (now, was) => {
  const mine = ticked.has(was) || performance.now() < mineUntil || picked.value === now
  chosen.value = mine ? now : ''
  moved.value = !!was && !mine
})
const moved = ref(false)
function take(id: string) {
  picked.value = id
  chosen.value = id
}
function tick(of: string, extra: EventData) {
  ticked.add(of)
  mineUntil = performance.now() + mineMS
  store.send('tick', { step: of, done: true, ...extra })
  picked.value = ''
}
const again = ref('')
function cameOff(steps: string[]) {
  for (const step of steps) tick(step, {})
  again.value = ''
}
/** As planned, up to here: each step its own event, told by one tap. */
const together = computed(() =>
  hand.value === view.value?.next ? steps.value.filter((s) => view.value!.together.includes(s.id)) : [],
)
const back = ref('')
function takeBack(also: string[]) {
  store.send('tick', { step: back.value, done: false, ...(also.length ? { also } : {}) })
  back.value = ''
}
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <template v-if="view">
    <section class="field">
      <header>
        <h2>{{ t('scope.' + view.plan.scope) }}</h2>
        <span class="fig" data-testid="steps-done">{{
          t('ui.steps_done', { done: steps.length - view.left, all: steps.length })
        }}</span>
      </header>
      <p v-if="view.opened && !view.plan.needs_bleeding" class="problem" data-testid="was-opened">
        {{ t('ui.opened_note') }}
      </p>
      <p v-else-if="view.plan.no_bleeding_why" class="caution" data-testid="no-bleeding">
        {{ t(view.plan.no_bleeding_why) }}
      </p>
      <GateStrip :gates="gates" :done="done" :next="hand" />
    </section>
    <ToldLate :doubts="view.doubts" />
    <p v-if="view.wet" class="problem" role="alert" data-testid="wet-both">{{ t('ui.wet_both') }}</p>
    <p class="gone" role="status">{{ step ? `${t('ui.step_in_hand')}: ${stepName(step)}` : '' }}</p>
    <StepNow
      v-if="step"
      :key="step.id"
      :step="step"
      :number="number"
      :of="steps.length"
      :tick="ticks[step.id]"
      :blocked="view.blocked[step.id] ?? []"
      :unmeasured="view.unmeasured"
      :limits="view.limits"
      :may-be-absent="view.may_be_absent.includes(step.id)"
      :chosen="chosen === step.id"
      :moved="moved"
      :touchable="view.touches"
      :to-bench="view.to_bench"
      @tick="(e) => tick(step!.id, e)"
    />
    <RepairTold v-if="elsewhere && view.repairs.length" :offers="view.repairs" />
    <p v-if="!step" class="field" role="status" data-testid="plan-done">
      <strong>{{ t('ui.plan_done') }}</strong>
    </p>
    <StepsTogether
      v-if="together.length > 1"
      :key="together[0]!.id"
      :steps="together"
      @done="(ids) => ids.forEach((id) => tick(id, {}))"
    />
    <WhatIsHere v-if="view.asked.length && asking" :asked="view.asked" :said="false" @said="asking = false" />
    <StepList
      :steps="steps"
      :ticks="ticks"
      :done="done"
      :hand="hand"
      :blocked="view.blocked"
      :again="view.again"
      @take="take"
      @back="(id) => (back = id)"
      @again="(id) => (again = id)"
    />
    <WhatIsHere v-if="view.asked.length && asking === false" :asked="view.asked" :said="true" />
    <SmallParts v-if="joint" :small="view.small" :fitting="fitting" :step="hand" />
    <LineMap v-if="view.plan.lines.length" :lines="view.plan.lines" />
    <OldUnits v-if="view.units_off.length" :units="view.units_off" />
    <FoldAway v-if="view.repairs.length && !elsewhere" :title="t('ui.repaired_other')">
      <RepairTold :offers="view.repairs" inside />
    </FoldAway>
    <SchoolPicks :schools="view.schools" />
    <div class="dock row">
      <RouterLink v-if="view.plan.needs_bench" class="tap" :to="{ name: 'bench' }">{{ t('ui.go_bench') }}</RouterLink>
      <RouterLink
        v-if="view.plan.needs_bleeding || view.opened"
        class="tap"
        :class="{ main: !step && onward === 'bleed' }"
        :to="{ name: 'bleed' }"
        >{{ t('ui.go_bleed') }}</RouterLink
      >
      <RouterLink
        v-if="(!step && onward === 'verify') || !(view.plan.needs_bleeding || view.opened)"
        class="tap"
        :class="{ main: !step }"
        :to="{ name: 'verify' }"
        data-testid="to-verify"
        >{{ t('ui.go_verify') }}</RouterLink
      >
      <ParkIt :main="view.plan.put_off && !step" :proposed="view.plan.put_off ? ['bleed_put_off'] : []" />
    </div>
    <CameOff
      v-if="again && view.again[again]"
      :off="view.again[again]!"
      :steps="steps"
      @leave="again = ''"
      @off="cameOff"
    />
    <TakeBack
      v-if="back"
      :step="back"
      :steps="steps"
      :falls="view.falls[back] ?? []"
      @leave="back = ''"
      @back="takeBack"
    />
  </template>
</template>

<style scoped>
.gap {
  margin: 10px 0;
}
</style>
