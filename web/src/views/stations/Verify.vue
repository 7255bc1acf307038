<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '@/api/client'
import AirLeft from '@/components/AirLeft.vue'
import ByHand from '@/components/ByHand.vue'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import HoldTest from '@/components/HoldTest.vue'
import PedalPlot from '@/components/PedalPlot.vue'
import ParkIt from '@/components/ParkIt.vue'
import Reopen from '@/components/Reopen.vue'
import Readings from '@/components/Readings.vue'
import TwinPanel from '@/components/TwinPanel.vue'
import StateMark from '@/components/StateMark.vue'
import { findingsOf } from '@/lib/findings'
import { useStation } from '@/lib/station'
import { say, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

const store = useJob()
const session = useSession()
const { view, problem } = useStation('verify')
const known = computed(() => findingsOf(store.job!, 'verify'))
function find(id: string, value: unknown) {
  store.send('finding', { phase: 'verify', finding: id, ...(value === null ? {} : { value: value as never }) })
}
const value = (id: string) => known.value[id]?.value
const items = computed(() => view.value?.gate.items ?? [])
const yesNo = computed(() =>
  items.value.filter((i) => i.id.startsWith('check.') || i.id === 'assist.pedal_falls_on_start'),
)
const others = computed(() => items.value.filter((i) => !yesNo.value.includes(i)))
const readings = computed(() => (value('pedal.readings') as { pedal_force_n: number; travel_mm: number }[]) ?? [])
const link = (i: Schemas['VerifyItem']) => ({ plan: 'replace', bleed: 'bleed', unit: 'match' })[i.id]
const noGauge = computed(() => value('check.no_gauge') === 'yes')
const open = computed(() => (view.value ? view.value.gate.missing + view.value.gate.failed : 0))
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <template v-if="view">
    <section class="field gate" :class="{ pass: view.gate.passable }" data-testid="gate">
      <header>
        <h2>
          {{ t(view.released ? 'ui.released' : view.gate.passable ? 'ui.may_release' : 'ui.may_not') }}
        </h2>
        <span class="fig">{{ t('ui.gate_counts', { missing: view.gate.missing, failed: view.gate.failed }) }}</span>
      </header>
      <ul>
        <li v-for="i in others" :key="i.id" class="row item" :class="i.state" :data-testid="'item-' + i.id">
          <StateMark :state="i.state" />
          <span
            ><strong>{{ t('finding.' + i.id) }}</strong> {{ say(i.code, i.with, session.pref) }}</span
          >
          <RouterLink v-if="link(i) && i.state !== 'ok'" class="tap" :to="{ name: link(i) }">{{
            t('ui.go_there')
          }}</RouterLink>
        </li>
      </ul>
      <div class="row">
        <button
          v-if="!view.released"
          type="button"
          class="tap main"
          :disabled="!view.gate.passable || !session.may('release_job')"
          data-testid="release"
          @click="store.release()"
        >
          {{ t('ui.release') }}
        </button>
        <Reopen v-else-if="session.may('reopen_job')" />
        <ParkIt v-if="!view.gate.passable" :proposed="view.gate.failed ? ['failed_test'] : []" />
        <span v-if="!view.released && open" class="small">{{ t('caution.no_driving') }}</span>
        <span v-if="!session.may('release_job')" class="small">{{ t('problem.trainee_release') }}</span>
      </div>
    </section>

    <section v-if="!store.isTrailer" class="field">
      <header>
        <h2>{{ t('test.hold') }}</h2>
      </header>
      <HoldTest
        phase="verify"
        :firm="noGauge ? view.firm_n : undefined"
        :last="value('pedal.sink') as never"
        @read="(v) => find('pedal.sink', v)"
      />
    </section>

    <section v-if="!store.isTrailer" class="field row">
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
    </section>

    <ByHand
      v-if="!store.isTrailer && noGauge"
      :pump="value('pedal.pump')"
      :firm="value('pedal.firm_travel')"
      @pump="(v) => find('pedal.pump', v)"
      @firm="(v) => find('pedal.firm_travel', v)"
    />
    <section v-else-if="!store.isTrailer" class="field">
      <header>
        <h2>{{ t('test.force_travel') }}</h2>
      </header>
      <Readings :pairs="readings" @change="(v) => find('pedal.readings', v.length ? v : null)" />
      <PedalPlot
        :traces="[
          {
            label: t('ui.twin_off'),
            style: 'thin',
            points: view.expected.map((e) => ({ x: e.pedal_force_n, y: e.travel_mm })),
          },
        ]"
        :band="view.expected.map((e) => ({ x: e.pedal_force_n, low: e.low_mm, high: e.high_mm }))"
        :marks="readings.map((r) => ({ x: r.pedal_force_n, y: r.travel_mm }))"
        :floor="store.system?.pedal?.floor_mm"
      />
      <AirLeft v-if="view.air" :air="view.air" />
      <Choice
        v-if="readings.length"
        :value="value('pedal.baseline') as string"
        :label="t('finding.pedal.baseline')"
        :options="['no', 'yes'].map((v) => ({ id: v, label: t('value.' + v) }))"
        clearable
        testid="baseline"
        @pick="(v) => find('pedal.baseline', v)"
      />
      <p class="small">{{ t('caution.twin') }}</p>
    </section>

    <TwinPanel />

    <section class="field">
      <header>
        <h2>{{ t('ui.checks') }}</h2>
      </header>
      <ul>
        <li v-if="items.some((i) => i.id === 'assist.reserve_applies')" class="row item check">
          <StateMark :state="items.find((i) => i.id === 'assist.reserve_applies')!.state" />
          <span class="name">{{ t('finding.assist.reserve_applies') }}</span>
          <Choice
            :value="value('assist.reserve_applies') == null ? null : String(value('assist.reserve_applies'))"
            clearable
            :options="['0', '1', '2', '3', '4'].map((v) => ({ id: v, label: v }))"
            testid="reserve"
            @pick="(v) => find('assist.reserve_applies', v == null ? null : Number(v))"
          />
        </li>
        <li v-for="i in yesNo" :key="i.id" class="row item check" :class="i.state">
          <StateMark :state="i.state" />
          <span class="name">{{ t('finding.' + i.id) }}</span>
          <Choice
            :value="value(i.id) as string"
            clearable
            :options="
              (i.id === 'check.second_look' ? ['yes', 'no', 'alone'] : ['yes', 'no']).map((v) => ({
                id: v,
                label: t('value.' + v),
              }))
            "
            :testid="i.id"
            @pick="(v) => find(i.id, v)"
          />
        </li>
      </ul>
    </section>
    <div class="row gap">
      <RouterLink class="tap" :class="{ main: view.released }" :to="{ name: 'record' }" data-testid="to-record">{{
        t('ui.go_record')
      }}</RouterLink>
      <RouterLink class="tap" :to="{ name: 'diagnose' }">{{ t('ui.back_diagnose') }}</RouterLink>
    </div>
  </template>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 0 0 12px;
}
.item {
  padding: 6px 0;
  border-top: 1px solid var(--rule-soft);
  flex-wrap: nowrap;
}
.check {
  flex-wrap: wrap;
}
.name {
  flex: 1 1 260px;
}
.failed {
  background: var(--bad-bg);
}
.gate {
  border: 2.5px solid var(--bad);
}
.pass {
  border-color: var(--ok);
}
.gap {
  margin-top: 12px;
}
</style>
