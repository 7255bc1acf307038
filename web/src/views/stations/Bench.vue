<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import BenchDrawing from '@/components/BenchDrawing.vue'
import BigCount from '@/components/BigCount.vue'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import NumField from '@/components/NumField.vue'
import PortCracks from '@/components/bleed/PortCracks.vue'
import { useKeys } from '@/lib/keys'
import { useChoices } from '@/lib/choices'
import { useStation } from '@/lib/station'
import { useUndo } from '@/lib/undo'
import { say, t } from '@/lib/words'
import ByPhone from '@/pocket/ByPhone.vue'
import { useJob } from '@/stores/job'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'

const store = useJob()
const outbox = useOutbox()
const session = useSession()
const { view, problem } = useStation('bench')
const { choices, set } = useChoices()
const waiting = computed(() => outbox.of(store.job!.id).filter((e) => e.kind === 'bench_stroke').length)
const count = computed(() => store.job!.state.bench_strokes)
const { undo, label: undoLabel, can: canUndo } = useUndo('bench')
useKeys({ z: undo })
/** It comes back slowly and fills: how many seconds yet. */
const until = ref(0)
const now = ref(0)
const rest = computed(() => Math.max(0, Math.ceil((until.value - now.value) / 1000)))
useIntervalFn(() => (now.value = performance.now()), 250)
function stroke() {
  now.value = performance.now()
  until.value = now.value + 1000 * (view.value?.patience_s ?? 0)
  store.send('bench_stroke', { strokes: 1 })
}
/** An inch, as the school of short strokes has it. */
const inchMM = 25.4
const push = computed(() => {
  const mm = choices.value.bench.stroke_mm
  return mm >= (view.value?.full_mm ?? Infinity) - 0.5 ? 'full' : Math.abs(mm - inchMM) < 1 ? 'inch' : null
})
const plugged = ref<number | null>(null)
function feel() {
  if (plugged.value == null) return
  store.send('bench_plugged', { remaining_mm: plugged.value })
  plugged.value = null
}
function bench(change: Partial<typeof choices.value.bench>) {
  void set({ bench: { ...choices.value.bench, ...change } })
}
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <section v-if="view && !view.applies" class="field" data-testid="bench-not-needed">
    <h2>{{ t('state.not_needed') }}</h2>
    <p>{{ t(view.why || 'bench.no_new_cylinder') }}</p>
    <PortCracks v-if="view.ports.length" :ports="view.ports" />
    <RouterLink class="tap main gap" :to="{ name: 'bleed' }">{{ t('ui.go_bleed') }}</RouterLink>
  </section>
  <template v-else-if="view">
    <section class="field">
      <header>
        <h2>{{ t('station.bench') }}</h2>
        <strong data-testid="bench-verdict">{{ t(view.verdict) }}</strong>
      </header>
      <BigCount
        :count="count"
        :of="view.needed"
        :label="t('ui.bench_stroke')"
        :waiting="waiting"
        :gap="view.least_gap_s"
        @stroke="stroke"
      />
      <p class="rest" role="timer" data-testid="patience">
        {{ rest > 0 ? t('ui.bench_rest', { n: rest }) : t('ui.bench_ready') }}
      </p>
      <div class="row gap">
        <button type="button" class="tap" :disabled="!canUndo" data-testid="undo" @click="undo">
          {{ undoLabel }}
        </button>
        <span>{{ t('ui.held') }} <Fig name="cm3" :value="view.held_cm3" /></span>
        <span v-if="view.fittings.length">{{ t('ui.fittings_for', { list: view.fittings.join(', ') }) }}</span>
      </div>
      <div class="row gap">
        <NumField v-model="plugged" name="mm" bound="bench.plugged_mm" :label="t('ui.plugged')" testid="plugged" />
        <button type="button" class="tap" :disabled="plugged == null" data-testid="plugged-store" @click="feel">
          {{ t('ui.add') }}
        </button>
        <strong v-if="view.plugged_cm3 != null" data-testid="plugged-is">{{
          say('ui.plugged_is', { air_cm3: view.plugged_cm3 }, session.pref)
        }}</strong>
      </div>
    </section>
    <section class="field">
      <header>
        <h2>{{ t('ui.trapped') }}</h2>
        <span class="small">{{ t('ui.bench_assumed') }}</span>
      </header>
      <div class="chambers">
        <div v-for="c in view.chambers" :key="c.circuit">
          <strong>{{ t('ui.circuit', { id: c.circuit }) }}</strong>
          <BenchDrawing :chamber="c" :tilt="choices.bench.tilt_deg" />
          <p>
            {{ t('ui.air_now') }} <Fig name="cm3" :value="c.now_cm3" />, {{ t('ui.stays') }}
            <strong data-testid="trapped"><Fig name="cm3" :value="c.trapped_cm3" /></strong>
          </p>
        </div>
      </div>
      <div class="cols gap">
        <div>
          <NumField
            :model-value="choices.bench.tilt_deg"
            name="deg"
            bound="bench.tilt_deg"
            unitless
            :label="t('ui.tilt')"
            testid="tilt"
            @update:model-value="(v) => v != null && bench({ tilt_deg: v })"
          />
          <ByPhone what="tilt" @take="(deg) => bench({ tilt_deg: deg })" />
        </div>
        <Choice
          :label="t('ui.bench_push')"
          :value="push"
          :options="[
            { id: 'full', label: t('ui.push_full') },
            { id: 'inch', label: t('ui.push_inch') },
          ]"
          testid="push"
          @pick="(v) => v && bench({ stroke_mm: v === 'full' ? view!.full_mm : inchMM })"
        />
        <NumField
          :model-value="choices.bench.stroke_mm"
          name="mm"
          bound="bench.stroke_mm"
          :label="t('ui.bench_push')"
          @update:model-value="(v) => v && bench({ stroke_mm: v })"
        />
        <NumField
          :model-value="choices.bench.port_mm"
          name="mm"
          bound="bench.port_mm"
          :label="t('ui.port_behind')"
          @update:model-value="(v) => v != null && bench({ port_mm: v })"
        />
        <Choice
          :label="t('ui.outlet')"
          :value="choices.bench.port"
          :options="(['top', 'side'] as const).map((v) => ({ id: v, label: t('ui.outlet_' + v) }))"
          @pick="(v) => v && bench({ port: v })"
        />
        <Choice
          :label="t('ui.how_fast')"
          :value="choices.bench.fast ? 'fast' : 'slow'"
          :options="['slow', 'fast'].map((v) => ({ id: v, label: t('ui.strokes_' + v) }))"
          @pick="(v) => bench({ fast: v === 'fast' })"
        />
      </div>
    </section>
    <div class="dock row">
      <strong>{{ t(view.verdict) }}</strong>
      <RouterLink class="tap" :class="{ main: view.verdict === 'bench.done' }" :to="{ name: 'replace' }">{{
        t('ui.go_replace')
      }}</RouterLink>
    </div>
  </template>
</template>

<style scoped>
.rest {
  margin: 6px 0 0;
  min-height: 1.4em;
}
.gap {
  margin-top: 12px;
}
.chambers {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
  gap: 16px;
}
</style>
