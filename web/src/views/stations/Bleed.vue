<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watchEffect } from 'vue'
import { RouterLink } from 'vue-router'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import DrainFirst from '@/components/bleed/DrainFirst.vue'
import WaterAsk from '@/components/bleed/WaterAsk.vue'
import BleedItself from '@/components/instruments/BleedItself.vue'
import FoldAway from '@/components/FoldAway.vue'
import BleedAlerts from '@/components/bleed/BleedAlerts.vue'
import CallerPad from '@/components/bleed/CallerPad.vue'
import MethodOffers from '@/components/bleed/MethodOffers.vue'
import Programme from '@/components/bleed/Programme.vue'
import RubberList from '@/components/bleed/RubberList.vue'
import SteeringSide from '@/components/bleed/SteeringSide.vue'
import StepWork from '@/components/bleed/StepWork.vue'
import WhatFor from '@/components/bleed/WhatFor.vue'
import WheelMore from '@/components/bleed/WheelMore.vue'
import WheelWork from '@/components/bleed/WheelWork.vue'
import { methodName } from '@/lib/bleeding'
import { clockText } from '@/lib/clock'
import { useByItself } from '@/lib/byitself'
import type { Measured } from '@/lib/figures'
import { useKeys } from '@/lib/keys'
import { useAwake } from '@/lib/ring'
import { useBleedShown } from '@/lib/shown'
import { useOnward } from '@/lib/onward'
import { useStation } from '@/lib/station'
import { useTimer } from '@/lib/timer'
import { useUndo } from '@/lib/undo'
import { say, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'

const store = useJob()
const outbox = useOutbox()
const session = useSession()
const { view, problem } = useStation('bleed')
const onward = useOnward('bleed')
const shown = useBleedShown()
const picked = ref<string | null>(null)
const calling = ref(false)
const called = computed(() => calling.value && !!view.value?.entry?.calls)
const at = computed(() => picked.value ?? view.value?.current ?? '')
const wheel = computed(() => (at.value ? view.value?.wheels[at.value] : undefined))
const waiting = computed(() => outbox.of(store.job!.id).filter((e) => e.kind === 'bleed_stroke').length)
const blocked = computed(
  () => !!view.value && (view.value.refill_now || view.value.draw_down_now || view.value.blocked.length > 0),
)
/** After the opening in hand another one follows: nothing to look at yet, and the level bears it. */
const more = computed(
  () =>
    !!view.value && !wheel.value?.enough && view.value.refill_in_strokes !== 0 && view.value.refill_in_strokes !== 1,
)
/** A step beside the wheels is in hand; drawing the reservoir off can be passed over, and costs what it costs. */
const beside = computed(() => !!view.value?.now && !view.value.now.startsWith('wheel.') && !blocked.value)
watchEffect(() => {
  shown.current = at.value
  shown.done = view.value ? Object.keys(view.value.wheels).filter((id) => view.value!.wheels[id]?.done) : []
  shown.level = view.value?.full_cm3 ? Math.min(1, view.value.level_cm3 / view.value.full_cm3) : undefined
  shown.fluid = view.value?.applies ? view.value.fluid : undefined
})
onBeforeUnmount(() => Object.assign(shown, { current: '', done: [], level: undefined, fluid: undefined }))
// How long this wheel takes: started by its first stroke, stopped when it is done.
const wheelClock = useTimer('wheel', () => at.value)
useAwake(computed(() => !!at.value))
function begin() {
  if (!wheelClock.running.value) wheelClock.start()
}
function stroke(id?: string, n = 1, by?: Measured) {
  if (!at.value || blocked.value) return
  begin()
  store.send('bleed_stroke', { wheel: at.value, strokes: n, ...itself.weigh(), ...(by && { measured: by }) }, id)
}
/** The foot switch counts, the scale weighs: where they belong to this vehicle and are asked to. */
const itself = useByItself(
  at,
  () => view.value?.least_gap_s ?? 0,
  (n, by) => stroke(undefined, n, by),
  () => view.value?.entry?.counts === 'strokes',
)
function moved(cm3: number) {
  if (view.value?.blocked.length) return
  begin()
  store.send('bleed_volume', { wheel: at.value, volume_cm3: cm3 })
}
function seen(clear: boolean) {
  const w = wheel.value
  if (!w || (clear && !w.enough)) return
  store.send('wheel_clear', { wheel: at.value, done: clear })
  if (!clear || w.clear_row + 1 < w.clear_of) return
  if (wheelClock.running.value) wheelClock.stop()
  picked.value = null
}
const fill = () => void store.send('refill')
const drawOff = () =>
  void store.send('drawn_off', view.value?.draw_down_now ? { left_cm3: view.value.draw_down_to_cm3 } : {})
const ticked = (step: string, codes: string[], wheel?: string) =>
  void store.send('bleed_step', { step: step as never, wheel, ...(codes.length ? { codes } : {}) })
/** All bleeders were open at once: so much left each of them. */
function together() {
  begin()
  for (const [wheel, cm3] of Object.entries(view.value?.together?.cm3 ?? {}))
    store.send('bleed_volume', { wheel, volume_cm3: cm3 })
}
const { undo, label: undoLabel, can: canUndo } = useUndo('bleed')
useKeys({
  r: () => (view.value?.draw_down_now ? drawOff() : fill()),
  c: () => seen(true),
  b: () => seen(false),
  z: undo,
})
/** Done by hand, a button gives the keyboard back: the space bar goes on counting strokes. */
const letGo = (e: Event) => (e.currentTarget as HTMLElement).blur()
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <section v-if="view && !view.applies" class="field" data-testid="bleed-not-needed">
    <h2>{{ t('state.not_needed') }}</h2>
    <p>{{ t(view.why || 'plan.no_bleeding.cylinder_aside') }}</p>
    <RouterLink class="tap main gap" :to="{ name: 'verify' }">{{ t('ui.go_verify') }}</RouterLink>
  </section>
  <template v-else-if="view">
    <p v-if="view.blocked.length && at" class="problem" role="alert" data-testid="opening-blocked">
      {{ say('ui.hold_first_wait', { steps: view.blocked }, session.pref) }}
      <RouterLink class="tap" :to="{ name: 'replace' }">{{ t('ui.go_there') }}</RouterLink>
    </p>
    <RubberList v-if="view.rubber.length" :parts="view.rubber" />
    <p v-if="view.cannot" class="problem" role="alert" data-testid="cannot">{{ t(view.cannot) }}</p>
    <section class="field">
      <header>
        <h2 data-testid="at-wheel">
          {{ at ? t('ui.wheel', { id: at }) : t(view.now ? 'ui.steps_left' : 'ui.all_bled') }}
        </h2>
        <span class="small">{{ methodName(view.method, store.isTrailer) }} · {{ t('purpose.' + view.purpose) }}</span>
        <span class="fig">{{ clockText(wheelClock.elapsed.value) }}</span>
      </header>
      <BleedAlerts :view="view" :at="at" />
      <DrainFirst :view="view" @drawn="drawOff" />
      <StepWork v-if="beside" :view="view" @drawn="drawOff" @filled="fill" @ticked="ticked" />
      <CallerPad
        v-if="called && at"
        :wheel="at"
        :method="view.method"
        :blocked="blocked"
        :more="more"
        @opening="(id) => stroke(id)"
        @lost="(id) => store.send('opening_lost', { wheel: at }, id)"
      />
      <BleedItself
        v-if="at && wheel && view.entry"
        :itself="itself"
        :wheel="wheel"
        @count="(on) => (itself.on = on)"
        @was="(w) => store.send('note', { text: `${at}: ${t('instrument.was.' + w)}` })"
      />
      <WheelWork
        v-if="at && wheel"
        :view="view"
        :at="at"
        :waiting="waiting"
        :blocked="blocked"
        :called="called"
        @stroke="(n) => itself.tapped() && stroke(undefined, n)"
        @moved="moved"
        @together="together"
        @seen="seen"
      />
      <div class="row gap">
        <button
          v-if="view.draw_down_now"
          type="button"
          class="tap main"
          data-testid="draw-down"
          @click="(drawOff(), letGo($event))"
        >
          {{ t('ui.drawn_down') }}
        </button>
        <button
          v-else
          type="button"
          class="tap"
          :class="{ main: view.refill_now }"
          data-testid="refill"
          @click="(fill(), letGo($event))"
        >
          {{ t('ui.refilled') }}
        </button>
        <button type="button" class="tap" :disabled="!canUndo || waiting > 0" data-testid="undo" @click="undo">
          {{ undoLabel }}
        </button>
        <button
          v-if="view.entry?.calls && at && !store.isTrailer"
          type="button"
          class="tap"
          :aria-pressed="calling"
          data-testid="caller"
          @click="calling = !calling"
        >
          {{ t('ui.caller') }}
        </button>
        <RouterLink v-if="!at && !view.now" class="tap main" :to="{ name: onward }" data-testid="onward">{{
          t('ui.go_' + onward)
        }}</RouterLink>
      </div>
      <WaterAsk v-if="!at && view.purpose !== 'air'" :view="view" phase="verify" />
      <WheelMore v-if="at" :view="view" :at="at" />
      <p v-for="c in view.entry?.cautions ?? []" :key="c" class="caution small">{{ t('caution.' + c) }}</p>
    </section>
    <section class="field">
      <header>
        <h2>{{ t('ui.route') }}</h2>
        <span class="small fig"
          >{{ t('ui.minutes_all', { n: Math.max(0, Math.round(view.minutes)) }) }} · {{ view.need.bottles }} ×
          <Fig name="cm3" :value="view.need.bottle_cm3" /> {{ view.need.class }}</span
        >
      </header>
      <Programme :view="view" :at="at" @pick="(id) => (picked = id)" />
    </section>
    <SteeringSide v-if="view.steering_side" :view="view" />
    <FoldAway :title="t('ui.how_to_bleed')" :line="methodName(view.method, store.isTrailer)" data-testid="methods">
      <MethodOffers :view="view" />
    </FoldAway>
    <FoldAway :title="t('ui.what_for')" :line="t('purpose.' + view.purpose)" data-testid="what-for">
      <WhatFor :view="view" />
    </FoldAway>
  </template>
  <SteeringSide v-if="view && !view.applies && view.steering_side" :view="view" />
</template>

<style scoped>
.gap {
  margin-top: 12px;
}
</style>
