<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import FaultList from '@/components/FaultList.vue'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import FindingInput from '@/components/FindingInput.vue'
import NextTests from '@/components/NextTests.vue'
import TwinPanel from '@/components/TwinPanel.vue'
import { findingsOf } from '@/lib/findings'
import { useStation } from '@/lib/station'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

const store = useJob()
const session = useSession()
const { view, problem } = useStation('diagnose')
const known = computed(() => findingsOf(store.job!, 'diagnose'))
const test = ref<string | null>(null)
const all = ref(false)
const kinds = computed(() => session.vocabulary?.findings ?? [])
const tests = computed(() => session.vocabulary?.tests ?? [])
const first = ['pedal.sinks', 'pedal.hard', 'pedal.springy', 'level.falls', 'brakes.weak', 'brakes.drag']
const trailerFirst = ['brakes.weak', 'actuator.rod_moves', 'level.falls', 'history.since', 'brakes.drag']
const skip = computed(() =>
  store.isTrailer ? /^(pedal|assist|vacuum|check_valve|steering|sound|rod)\./ : /^actuator\./,
)
const usable = computed(() => kinds.value.filter((k) => k.shape !== 'gauge' && !skip.value.test(k.id)))
const shown = computed(() => {
  if (test.value) {
    const yields = tests.value.find((x) => x.id === test.value)?.yields.map((y) => y.split(':')[0]) ?? []
    return kinds.value.filter((k) => yields.includes(k.id) && k.shape !== 'gauge')
  }
  if (all.value) return usable.value
  const start = store.isTrailer ? trailerFirst : first
  return usable.value.filter((k) => start.includes(k.id) || k.id in known.value)
})
function find(id: string, value: unknown, sure = known.value[id]?.sure ?? true) {
  store.send('finding', {
    phase: 'diagnose',
    finding: id,
    ...(value === null ? {} : { value: value as never, ...(sure ? {} : { sure: false }) }),
  })
}
// A test that has told all it can closes by itself; the next one stands above.
watch(view, (v) => {
  if (test.value && v && !v.result.next_tests.some((n) => n.id === test.value)) test.value = null
})
const action = computed(() => view.value?.result.action)
const suspects = computed(() =>
  (view.value?.result.faults ?? [])
    .filter((f) => f.probability > 0.03)
    .slice(0, 4)
    .map((f) => ({ id: f.id, at: f.at, label: t('fault_id.' + f.id) + (f.at ? ` ${f.at}` : '') })),
)
const lead = computed(() => action.value?.alternatives[0]?.id)
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <div class="order" :class="{ fresh: view?.findings_count === 0 }">
    <section v-if="view && view.findings_count === 0" class="field judgement first" data-testid="judgement">
      <h2>{{ t('ui.no_signs') }}</h2>
      <p>{{ t('ui.no_signs_why') }}</p>
    </section>
    <section v-else-if="view" class="field judgement" data-testid="judgement">
      <header>
        <h2>{{ t('action.' + action!.id) }}</h2>
        <span class="small">{{
          action!.settled ? t('ui.settled') : t('ui.not_settled', { action: t('action.' + lead) })
        }}</span>
      </header>
      <p v-if="action!.modulator_routine" class="caution">{{ t('ui.modulator_routine') }}</p>
      <div v-if="view.sink" class="row sink" data-testid="sink">
        <span>{{ t('ui.sink_is') }}</span>
        <strong class="fig">{{ view.sink.mm_per_s.toFixed(2) }} mm/s</strong>
        <span>{{ t('ui.leak_is') }}</span>
        <strong><Fig name="cm3_min" :value="view.sink.cm3_per_min" /></strong>
        <span class="small">{{ t('ui.puddle') }} <Fig name="cm3" :value="view.sink.cm3_during_hold" /></span>
      </div>
      <FaultList :result="view.result" />
      <p v-for="c in view.result.contradictions" :key="c.findings.join()" class="caution" data-testid="contradiction">
        {{
          t('ui.contradiction', {
            a: t('finding.' + c.findings[0]),
            b: t('finding.' + c.findings[1]),
            repeat: t('finding.' + c.repeat),
          })
        }}
      </p>
      <div class="row act">
        <RouterLink class="tap" :class="{ main: action!.settled }" :to="{ name: 'match' }" data-testid="to-match">{{
          t('ui.go_match')
        }}</RouterLink>
      </div>
    </section>

    <p v-if="view?.left_out.length" class="caution" data-testid="left-out">
      {{ t('ui.left_out', { list: view.left_out.map((id) => t('finding.' + id)).join(', ') }) }}
    </p>
    <section v-if="view" class="field">
      <header>
        <h2>{{ t('ui.next_test') }}</h2>
        <span class="small">{{ t('ui.next_why') }}</span>
      </header>
      <p v-if="!view.result.next_tests.length">{{ t('ui.no_test') }}</p>
      <NextTests :tests="view.result.next_tests" :current="test" @start="(id) => (test = test === id ? null : id)" />
    </section>

    <section class="field signs">
      <header>
        <h2>{{ test ? t('test.' + test) : t('ui.findings') }}</h2>
        <span class="row">
          <button v-if="test" type="button" class="tap" @click="test = null">{{ t('ui.back_findings') }}</button>
          <button v-else type="button" class="tap" :aria-pressed="all" data-testid="all-findings" @click="all = !all">
            {{ t(all ? 'ui.fewer' : 'ui.all_findings') }}
          </button>
        </span>
      </header>
      <FindingInput
        v-for="k in shown"
        :key="k.id"
        :kind="k"
        :value="known[k.id]?.value"
        :sure="known[k.id]?.sure ?? true"
        @find="(v) => find(k.id, v)"
        @sure="(s) => find(k.id, known[k.id]?.value, s)"
      />
    </section>
    <TwinPanel v-if="view && view.findings_count > 0" :faults="suspects" />
  </div>
</template>

<style scoped>
.order {
  display: flex;
  flex-direction: column;
}
.fresh .first {
  order: -2;
}
.fresh .signs {
  order: -1;
}
.order > .field + .field {
  margin-top: 14px;
}
.judgement h2 {
  font-size: 28px;
}
.sink {
  padding: 6px 0;
  font-size: 18px;
}
.act {
  margin-top: 10px;
}
</style>
