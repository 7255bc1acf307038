<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, onBeforeUnmount, ref, watchEffect } from 'vue'
import { RouterLink } from 'vue-router'
import BigCount from '@/components/BigCount.vue'
import BleedRoute from '@/components/BleedRoute.vue'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import NumField from '@/components/NumField.vue'
import { clockText } from '@/lib/clock'
import { useChoices } from '@/lib/choices'
import { useKeys } from '@/lib/keys'
import { useAwake } from '@/lib/ring'
import { useBleedShown } from '@/lib/shown'
import { useStation } from '@/lib/station'
import { useTimer } from '@/lib/timer'
import { useUndo } from '@/lib/undo'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useOutbox } from '@/stores/outbox'

const store = useJob()
const outbox = useOutbox()
const { view, problem } = useStation('bleed')
const { choices, set } = useChoices()
const shown = useBleedShown()
const picked = ref<string | null>(null)
const at = computed(() => picked.value ?? view.value?.current ?? '')
const wheel = computed(() => view.value?.plan?.wheels.find((w) => w.id === at.value))
const waiting = computed(() => outbox.of(store.job!.id).filter((e) => e.kind === 'bleed_stroke').length)
const counts = computed(() => store.job!.state.bleed_strokes as Record<string, number>)
const mustRefill = computed(() => !!view.value?.refill_now)
const enough = computed(() => !!view.value?.wheels[at.value]?.enough)
watchEffect(() => {
  shown.current = at.value
  shown.done = view.value?.plan?.order.filter((id) => view.value!.wheels[id]?.done) ?? []
  shown.level = view.value ? Math.max(0, Math.min(1, view.value.level_cm3 / view.value.full_cm3)) : undefined
})
onBeforeUnmount(() => Object.assign(shown, { current: '', done: [], level: undefined }))
// How long this wheel takes: started by its first stroke, stopped when it runs clear.
const wheelClock = useTimer('wheel', () => at.value)
useAwake(computed(() => !!at.value))
function stroke() {
  if (!at.value || mustRefill.value) return
  if (!wheelClock.running.value) wheelClock.start()
  store.send('bleed_stroke', { wheel: at.value, strokes: 1 })
}
const refill = () => void store.send('refill')
/** Done by hand, a button gives the keyboard back: the space bar goes on counting strokes. */
const letGo = (e: Event) => (e.currentTarget as HTMLElement).blur()
function clear() {
  if (!at.value || !enough.value) return
  store.send('wheel_clear', { wheel: at.value, done: true })
  if (wheelClock.running.value) wheelClock.stop()
  picked.value = null
}
const { undo, label: undoLabel, can: canUndo } = useUndo('bleed')
useKeys({ r: refill, c: clear, z: undo })
function bleed(change: Partial<typeof choices.value.bleed>) {
  void set({ bleed: { ...choices.value.bleed, ...change } })
}
const methods = computed(() => ['pedal', 'pressure', 'vacuum', 'gravity', 'reverse'])
const volume = ref<number | null>(null)
const given = ref((choices.value.bleed.given ?? []).join(' '))
function order(v: string | null) {
  if (!v) return
  const all = store.system!.wheels.map((w) => w.id)
  bleed({ order: v, given: v === 'maker' && !choices.value.bleed.given.length ? all : choices.value.bleed.given })
  given.value = (choices.value.bleed.given.length ? choices.value.bleed.given : all).join(' ')
}
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <section v-if="view && !view.applies" class="field" data-testid="bleed-not-needed">
    <h2>{{ t('state.not_needed') }}</h2>
    <p>{{ t(view.why || 'plan.no_bleeding.cylinder_aside') }}</p>
    <RouterLink class="tap main gap" :to="{ name: 'verify' }">{{ t('ui.go_verify') }}</RouterLink>
  </section>
  <template v-else-if="view">
    <section class="field">
      <header>
        <h2 data-testid="at-wheel">{{ at ? t('ui.wheel', { id: at }) : t('ui.all_bled') }}</h2>
        <span class="fig">{{ clockText(wheelClock.elapsed.value) }}</span>
      </header>
      <p v-if="mustRefill && at" class="problem" role="alert" data-testid="refill-now">{{ t('ui.refill_now') }}</p>
      <BigCount
        v-if="wheel && wheel.strokes"
        :count="counts[at] ?? 0"
        :of="wheel.strokes"
        :label="t(mustRefill ? 'ui.stroke_blocked' : 'ui.stroke_space')"
        :disabled="mustRefill"
        :waiting="waiting"
        :gap="view.least_gap_s"
        @stroke="stroke"
      />
      <div v-else-if="wheel" class="row">
        <NumField v-model="volume" name="cm3" :label="t('ui.through')" :min="0" :max="1000" />
        <button
          type="button"
          class="tap main"
          :disabled="!volume"
          @click="(store.send('bleed_volume', { wheel: at, volume_cm3: volume! }), (volume = null))"
        >
          {{ t('ui.take_reading') }}
        </button>
        <span><Fig name="cm3" :value="view.wheels[at]?.cm3" /> / <Fig name="cm3" :value="wheel.volume_cm3" /></span>
      </div>
      <div class="row gap">
        <button
          type="button"
          class="tap"
          :class="{ main: mustRefill }"
          data-testid="refill"
          @click="(refill(), letGo($event))"
        >
          {{ t('ui.refilled') }}
        </button>
        <button
          type="button"
          class="tap"
          :class="{ main: enough }"
          :disabled="!enough"
          data-testid="clear"
          @click="clear"
        >
          {{ t('ui.clear') }}
        </button>
        <button type="button" class="tap" :disabled="!canUndo || waiting > 0" data-testid="undo" @click="undo">
          {{ undoLabel }}
        </button>
        <span v-if="view.refill_in_strokes > 0 && wheel?.strokes" class="fig" data-testid="refill-in">{{
          t('ui.refill_in', { n: view.refill_in_strokes })
        }}</span>
        <span>{{ t('ui.reservoir') }} <Fig name="cm3" :value="view.level_cm3" /></span>
      </div>
      <p v-if="wheel && !wheel.bubbles_move" class="caution gap">{{ t('ui.bubbles_stuck') }}</p>
    </section>
    <section class="field">
      <header>
        <h2>{{ t('ui.route') }}</h2>
        <span class="small fig"
          ><Fig name="cm3" :value="view.plan!.total_cm3" />, {{ view.plan!.bottles }} × 500 mL</span
        >
      </header>
      <BleedRoute :view="view" :counts="counts" :at="at" @pick="(id) => (picked = id)" />
    </section>
    <section class="field">
      <header>
        <h2>{{ t('ui.school') }}</h2>
      </header>
      <Choice
        :label="t('ui.order')"
        :value="choices.bleed.order"
        :options="['longest', 'circuit', 'maker'].map((v) => ({ id: v, label: t('order.' + v) }))"
        testid="order"
        @pick="order"
      />
      <label v-if="choices.bleed.order === 'maker'" class="gap block"
        ><span class="small">{{ t('ui.maker_order') }}</span
        ><NInput v-model:value="given" @change="bleed({ given: given.trim().split(/[\s,]+/) })"
      /></label>
      <Choice
        class="gap"
        :label="t('ui.method')"
        :value="choices.bleed.method"
        :options="
          methods.map((v) => ({
            id: v,
            label: t(v === 'pedal' && store.isTrailer ? 'method.pedal_trailer' : 'method.' + v),
          }))
        "
        @pick="(v) => v && bleed({ method: v })"
      />
      <div class="cols gap">
        <NumField
          v-if="choices.bleed.method === 'pedal'"
          :model-value="choices.bleed.stroke_mm"
          name="mm"
          :label="t('ui.stroke_used')"
          :min="5"
          :max="40"
          @update:model-value="(v) => v && bleed({ stroke_mm: v })"
        />
        <NumField
          v-else-if="choices.bleed.method === 'gravity'"
          :model-value="choices.bleed.head_mm"
          name="mm"
          :label="t('ui.head')"
          :min="100"
          :max="1500"
          @update:model-value="(v) => v && bleed({ head_mm: v })"
        />
        <NumField
          v-else
          :model-value="choices.bleed.drive_kpa"
          name="kpa"
          :label="t('ui.drive')"
          :min="10"
          :max="200"
          @update:model-value="(v) => v && bleed({ drive_kpa: v })"
        />
        <NumField
          :model-value="choices.bleed.temperature_c"
          name="c"
          :label="t('field.ambient.temperature_c')"
          :min="-20"
          :max="40"
          @update:model-value="(v) => v != null && bleed({ temperature_c: v })"
        />
      </div>
      <p class="caution gap">{{ t('ui.two_people') }}</p>
    </section>
  </template>
</template>

<style scoped>
.gap {
  margin-top: 12px;
}
.block {
  display: block;
}
</style>
