<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import ShopCosts from '@/components/diagnose/ShopCosts.vue'
import FaultList from '@/components/diagnose/FaultList.vue'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import FindingInput from '@/components/diagnose/FindingInput.vue'
import SignList from '@/components/diagnose/SignList.vue'
import Grounds from '@/components/diagnose/Grounds.vue'
import TraceTake from '@/components/instruments/TraceTake.vue'
import GuidedTest from '@/components/diagnose/GuidedTest.vue'
import Meaning from '@/components/Meaning.vue'
import NextTests from '@/components/diagnose/NextTests.vue'
import TwinPanel from '@/components/TwinPanel.vue'
import Unexplained from '@/components/Unexplained.vue'
import Verdict from '@/components/diagnose/Verdict.vue'
import { useWhatIf } from '@/lib/whatif'
import { takenFor } from '@/lib/figures'
import { findingsOf } from '@/lib/findings'
import { useStation } from '@/lib/station'
import { t, testName, wheels } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

const store = useJob()
const session = useSession()
const { view: stored, problem } = useStation('diagnose')
const { view, off } = useWhatIf(stored)
const known = computed(() => findingsOf(store.job!, 'diagnose'))
const test = ref<string | null>(null)
const kinds = computed(() => session.vocabulary?.findings ?? [])
const tests = computed(() => session.vocabulary?.tests ?? [])
const guided = computed(() => tests.value.find((x) => x.id === test.value))
/** A test read at a gauge can be drawn by one. */
const gauged = computed(() => guided.value?.yields.some((y) => y.split(':')[0] === 'pressure.gauge'))
/** What the test in hand yields; a guided test's figures are asked for once. */
const yields = computed(() => {
  const ids = tests.value.find((x) => x.id === test.value)?.yields.map((y) => y.split(':')[0]) ?? []
  const typed = !guided.value?.inputs.length
  return kinds.value.filter((k) => ids.includes(k.id) && k.shape !== 'gauge' && (typed || k.shape !== 'number'))
})
function find(id: string, value: unknown, sure = known.value[id]?.sure ?? true) {
  store.send('finding', {
    phase: 'diagnose',
    finding: id,
    ...(value === null
      ? {}
      : {
          value: value as never,
          ...(sure ? {} : { sure: false }),
          ...(again.value && id === 'pedal.sink' ? { again: true } : {}),
          ...takenFor(id, value),
        }),
  })
}
/** Whether the test in hand is a reading taken a second time: the first is kept beside it. */
const again = ref(false)
const offers = (id: string | null) => view.value?.result.next_tests.find((n) => n.id === id)
const signs = ref<HTMLElement | null>(null)
async function start(id: string) {
  test.value = test.value === id ? null : id
  again.value = offers(test.value)?.again ?? false
  await nextTick()
  if (test.value) signs.value?.scrollIntoView({ block: 'start', behavior: 'smooth' })
}
// A test that has told all it can closes by itself; the next one stands above.
watch(view, (v) => {
  const n = offers(test.value)
  if (test.value && v && (!n || (n.again && !again.value))) test.value = null
})
const action = computed(() => view.value?.result.action)
const suspects = computed(() =>
  (view.value?.suspects ?? []).map((f) => ({ ...f, label: t('fault_id.' + f.id) + (f.at ? ` ${wheels(f.at)}` : '') })),
)
const looked = computed(() => known.value['looked.at']?.value as string[] | undefined)
// Once settled only what is quick and on the way is offered; the rest can still be done.
const quick = computed(() => view.value?.result.on_the_way ?? [])
const offered = computed(() => {
  const r = view.value?.result
  const tests = r?.next_tests ?? []
  if (action.value?.settled) return tests.filter((n) => quick.value.includes(n.id))
  return [...tests].sort((x, y) => Number(y.id === r?.test_first) - Number(x.id === r?.test_first))
})
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <div class="order">
    <section ref="signs" class="field signs">
      <header>
        <h2>{{ test ? testName(test, again) : t('ui.findings') }}</h2>
        <button v-if="test" type="button" class="tap" data-testid="back-findings" @click="test = null">
          {{ t('ui.back_findings') }}
        </button>
      </header>
      <TraceTake v-if="gauged" phase="diagnose" finding="pressure.gauge" />
      <GuidedTest v-if="guided" :test="guided" @found="(list) => list.forEach((f) => find(f.id, f.value))" />
      <SignList v-if="!test && view" :view="view" :kinds="kinds" :known="known" @find="find" />
      <FindingInput
        v-for="k in test ? yields : []"
        :key="k.id"
        :kind="k"
        :value="known[k.id]?.value"
        :sure="known[k.id]?.sure ?? true"
        :looked="looked"
        @find="(v) => find(k.id, v)"
        @looked="(v) => find('looked.at', v, true)"
        @sure="(s) => find(k.id, known[k.id]?.value, s)"
      />
    </section>
    <p v-if="view?.left_out.length" class="caution" data-testid="left-out">
      {{ t('ui.left_out', { list: view.left_out.map((id) => t('finding.' + id)).join(', ') }) }}
    </p>
    <section v-if="view" class="field" data-testid="next-tests">
      <header>
        <h2>{{ t(action?.settled ? 'ui.on_the_way' : 'ui.next_test') }}</h2>
        <span class="small">{{ t(action?.settled ? 'ui.on_the_way_why' : 'ui.next_why') }}</span>
      </header>
      <p v-if="!offered.length">{{ t('ui.no_test') }}</p>
      <NextTests :tests="offered" :current="test" @start="start" />
    </section>

    <TwinPanel v-if="view && view.findings_count > 0" :faults="suspects" />
  </div>
  <div v-if="view && action" class="dock row">
    <!-- What a tap brings up has a place of its own: it pushes nothing that is tapped. -->
    <Meaning testid="dock-verdict">
      <template #line>
        <template v-if="view.findings_count && action.id === 'keep_testing'"
          ><strong>{{ t('ui.keep_testing') }}</strong></template
        >
        <template v-else-if="view.findings_count"
          ><strong>{{ [action.best, ...(action.also ?? [])].map((x) => t('action.' + x)).join(' + ') }}</strong
          >, {{ t('ui.right_chance', { percent: Math.min(99, Math.round(100 * action.chance)) }) }}</template
        >
        <template v-else>{{ t('ui.no_signs') }}</template>
      </template>
      <section v-if="view.findings_count === 0" class="field judgement first" data-testid="judgement">
        <p>
          <strong>{{ t('ui.no_signs') }}.</strong> {{ t('ui.no_signs_why') }}
        </p>
      </section>
      <section v-else class="field judgement" data-testid="judgement">
        <Verdict :result="view.result" @start="start" />
        <p v-for="o in view.result.cannot_finish" :key="o.why" class="caution" data-testid="obstacle">
          {{ t('obstacle.' + o.why) }}
        </p>
        <p v-if="off.length" class="caution" data-testid="what-if">{{ t('ui.what_if_view') }}</p>
        <div v-if="view.sink" class="row sink" data-testid="sink">
          <span>{{ t('ui.sink_is') }}</span>
          <strong><Fig name="mm_s" :value="view.sink.mm_per_s" /></strong>
          <span>{{ t('ui.leak_is') }}</span>
          <strong><Fig name="cm3_min" :value="view.sink.cm3_per_min" /></strong>
          <span class="small">{{ t('ui.puddle') }} <Fig name="cm3" :value="view.sink.cm3_during_hold" /></span>
        </div>
        <p v-if="view.teardown" data-testid="teardown">
          {{
            t(view.teardown.why === 'rubber' ? 'teardown.rubber' : 'teardown.' + view.teardown.rebuildable, {
              value: t('value.' + view.teardown.value),
            })
          }}
        </p>
        <Unexplained :facts="view.result.unexplained" />
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
        <Grounds :result="view.result" :findings="Object.keys(known)" :off="off" @off="(x) => (off = x)" />
        <ShopCosts :costs="view.costs" :alternatives="action!.alternatives" />
      </section>
    </Meaning>
    <button
      v-if="view.findings_count && !action.settled && view.result.test_first && test !== view.result.test_first"
      type="button"
      class="tap main"
      data-testid="dock-test"
      @click="start(view.result.test_first)"
    >
      {{ t('ui.next_is', { test: testName(view.result.test_first, offers(view.result.test_first)?.again) }) }}
    </button>
    <RouterLink class="tap" :class="{ main: action.settled }" :to="{ name: 'match' }" data-testid="to-match">{{
      t('ui.go_match')
    }}</RouterLink>
  </div>
</template>

<style scoped>
.order {
  display: flex;
  flex-direction: column;
}
.order > .field + .field {
  margin-top: 14px;
}
.sink {
  padding: 6px 0;
  font-size: 18px;
}
.act {
  margin-top: 10px;
}
</style>
