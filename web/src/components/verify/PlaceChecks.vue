<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import ByHand from '@/components/ByHand.vue'
import Choice from '@/components/Choice.vue'
import HoldTest from '@/components/diagnose/HoldTest.vue'
import StateMark from '@/components/StateMark.vue'
import TraceTake from '@/components/instruments/TraceTake.vue'
import ForceTravel from './ForceTravel.vue'
import { takenFor } from '@/lib/figures'
import { findingsOf } from '@/lib/findings'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** What is checked at one place, in the order one does it there. */
const props = defineProps<{ view: Schemas['JobVerifyView']; place: string; items: Schemas['VerifyItem'][] }>()
const store = useJob()
const known = computed(() => findingsOf(store.job!, 'verify'))
const value = (id: string) => known.value[id]?.value
const witness = ref(store.job!.state.findings.verify?.['check.second_look']?.witness ?? '')
function find(id: string, v: unknown) {
  const who = id === 'check.second_look' && v === 'yes' ? { witness: witness.value.trim() } : {}
  store.send('finding', {
    phase: 'verify',
    finding: id,
    ...(v === null ? {} : { value: v as never, ...takenFor(id, v) }),
    ...who,
  })
}
const noGauge = computed(() => value('check.no_gauge') === 'yes')
const own = ['pedal.pump', 'pedal.firm_travel', 'pedal.readings', 'pedal.sink', 'pedal.air', 'assist.reserve_applies']
const plain = computed(() => props.items.filter((i) => !own.includes(i.id)))
const has = (id: string) => props.items.some((i) => i.id === id)
const state = (id: string) => props.items.find((i) => i.id === id)?.state ?? 'missing'
/** The second look is somebody else's: an account of the shop where it has others, a name where nobody said. */
const options = (id: string) => {
  const all = id !== 'check.second_look' ? ['yes', 'no'] : props.view.alone ? ['yes', 'no', 'alone'] : ['no']
  return all.map((v) => ({ id: v, label: t('value.' + v) }))
}
/** Who looked is the answer; the same name again takes it back. */
function looked(who: string | null) {
  witness.value = who ?? ''
  find('check.second_look', who ? 'yes' : null)
}
</script>

<template>
  <section :id="'place-' + place" class="field" :data-testid="'place-' + place">
    <header>
      <h2>{{ t('gate_place.' + place) }}</h2>
    </header>
    <template v-if="has('pedal.sink')">
      <h3>{{ t('test.hold') }}</h3>
      <HoldTest
        phase="verify"
        :firm="noGauge ? view.firm_n : undefined"
        :last="value('pedal.sink') as never"
        @read="(v) => find('pedal.sink', v)"
      />
    </template>
    <template v-if="has('pedal.readings') || has('pedal.firm_travel')">
      <Choice
        :value="noGauge ? 'yes' : 'no'"
        :options="[
          { id: 'no', label: t('ui.gauge_here') },
          { id: 'yes', label: t('ui.no_gauge') },
        ]"
        testid="no-gauge"
        @pick="(v) => find('check.no_gauge', v === 'yes' ? 'yes' : null)"
      />
      <p v-if="noGauge" class="small">{{ t('ui.no_gauge_note') }}</p>
    </template>
    <ByHand
      v-if="has('pedal.pump')"
      show="pump"
      :pump="value('pedal.pump')"
      :firm="null"
      @pump="(v) => find('pedal.pump', v)"
    />
    <TraceTake v-if="has('pedal.pump')" phase="verify" finding="pedal.pump" />
    <template v-if="has('pedal.readings') || has('pedal.firm_travel')">
      <ByHand
        v-if="noGauge"
        show="firm"
        :pump="null"
        :firm="value('pedal.firm_travel')"
        @firm="(v) => find('pedal.firm_travel', v)"
      />
      <ForceTravel
        v-else
        :view="view"
        :readings="value('pedal.readings')"
        :baseline="value('pedal.baseline')"
        @find="find"
      />
    </template>
    <ul>
      <li v-if="has('assist.reserve_applies')" class="row check" :class="state('assist.reserve_applies')">
        <StateMark :state="state('assist.reserve_applies')" />
        <span class="name">{{ t('finding.assist.reserve_applies') }}</span>
        <Choice
          :value="value('assist.reserve_applies') == null ? null : String(value('assist.reserve_applies'))"
          clearable
          :name="t('finding.assist.reserve_applies')"
          :options="['0', '1', '2', '3', '4'].map((v) => ({ id: v, label: v }))"
          testid="reserve"
          @pick="(v) => find('assist.reserve_applies', v == null ? null : Number(v))"
        />
        <TraceTake phase="verify" finding="assist.reserve_applies" />
      </li>
      <li v-for="i in plain" :key="i.id" class="row check" :class="i.state">
        <StateMark :state="i.state" />
        <span class="name">{{ t('finding.' + i.id) }}</span>
        <Choice
          v-if="i.id === 'check.second_look' && !view.alone"
          :value="value(i.id) === 'yes' ? witness : null"
          clearable
          :label="t('ui.second_look_account')"
          :options="view.lookers.map((p) => ({ id: p.name, label: p.name }))"
          testid="looker"
          @pick="looked"
        />
        <NInput
          v-else-if="i.id === 'check.second_look'"
          v-model:value="witness"
          class="who"
          :placeholder="t('ui.witness')"
          :input-props="{ 'aria-label': t('ui.witness') }"
          data-testid="witness"
        />
        <Choice
          :name="t('finding.' + i.id)"
          :value="value(i.id) as string"
          clearable
          :options="options(i.id)"
          :testid="i.id"
          @pick="(v) => find(i.id, v)"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
.check {
  padding: 6px 0;
  border-top: 1px solid var(--rule-soft);
}
.name {
  flex: 1 1 260px;
}
.who {
  flex: 0 1 200px;
}
.failed {
  background: var(--bad-bg);
}
h3 {
  margin: 0 0 6px;
}
</style>
