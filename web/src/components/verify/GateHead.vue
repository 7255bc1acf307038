<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '@/api/client'
import ParkIt from '@/components/ParkIt.vue'
import Reopen from '@/components/Reopen.vue'
import Unexplained from '@/components/Unexplained.vue'
import StateMark from '@/components/StateMark.vue'
import { say, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** Whether the vehicle may go, what stands against it, what comes next; what is in order folds away. */
const props = defineProps<{ view: Schemas['JobVerifyView'] }>()
const store = useJob()
const session = useSession()
const gate = computed(() => props.view.gate)
const failed = computed(() => gate.value.items.filter((i) => i.state === 'failed'))
const missing = computed(() => props.view.to_do.filter((i) => i.state !== 'failed'))
const ok = computed(() => gate.value.items.filter((i) => i.state === 'ok'))
/** An instrument was out of date, and whoever read it says that it will do: the reading stands, with that beside it. */
function willDo(finding: string) {
  const f = store.job!.state.findings.verify?.[finding]
  if (!f?.measured) return
  const measured = { ...f.measured, will_do: true }
  store.send('finding', { phase: 'verify', finding, value: f.value as never, measured })
}
/** What nobody has read yet stands with its place below; everything else says here what is the matter. */
const told = computed(() => [...failed.value, ...missing.value.filter((i) => i.code !== 'gate.missing')])
</script>

<template>
  <section class="field gate" :class="{ pass: gate.passable }" data-testid="gate">
    <header>
      <h2 role="status">
        {{ t(view.released ? 'ui.released' : gate.passable ? 'ui.may_release' : 'ui.may_not') }}:
        <span class="fig">{{ t('ui.gate_counts', { missing: gate.missing, failed: gate.failed }) }}</span>
      </h2>
      <div class="row acts">
        <Reopen v-if="view.released && session.may('reopen_job')" />
        <a v-if="view.released" class="tap" :href="`/api/jobs/${store.job!.id}/proof.pdf`" data-testid="proof">{{
          t('ui.proof')
        }}</a>
        <ParkIt v-if="!gate.passable" :proposed="gate.failed ? ['failed_test'] : []" />
        <span v-if="!session.may('release_job')" class="small">{{ t('problem.trainee_release') }}</span>
      </div>
    </header>
    <ul>
      <li v-for="i in told" :key="i.id" class="row item" :class="i.state" :data-testid="'item-' + i.id">
        <StateMark :state="i.state" />
        <span
          ><strong>{{ t('finding.' + i.id) }}</strong> {{ say(i.code, i.with, session.pref) }}</span
        >
        <button
          v-if="i.code === 'gate.out_of_date'"
          type="button"
          class="tap"
          :data-testid="'will-do-' + i.id"
          @click="willDo(i.id)"
        >
          {{ t('ui.will_do') }}
        </button>
        <RouterLink
          v-if="i.station"
          class="tap"
          :to="{ name: i.station }"
          :aria-label="`${t('ui.go_there')}: ${t('finding.' + i.id)}`"
          >{{ t('ui.go_there') }}</RouterLink
        >
      </li>
    </ul>
    <Unexplained :facts="view.unexplained" />
    <template v-if="view.back.length">
      <h3>{{ t('ui.ways_back') }}</h3>
      <p v-for="b in view.back" :key="b.item" class="row" :data-testid="'back-' + b.item">
        <span>{{ t(b.code) }}</span>
        <RouterLink class="tap" :to="{ name: b.station }">{{ t('station.' + b.station) }}</RouterLink>
      </p>
    </template>
    <p v-if="view.beyond.wins" class="caution" data-testid="beyond">
      {{ t('ui.beyond') }} {{ view.beyond.left.map((f) => t('finding.' + f)).join(', ') }}. {{ t('ui.beyond_do') }}
    </p>
    <p v-else-if="view.now.length" data-testid="says-now">
      {{ t('ui.says_now') }}:
      {{
        view.now
          .map((f) => `${t('fault_id.' + f.id)}${f.at ? ` (${f.at})` : ''} ${Math.round(f.probability * 100)} %`)
          .join('; ')
      }}
    </p>
    <p v-if="view.loops" class="small">{{ t('ui.loops', { n: view.loops }) }}</p>
    <details v-if="ok.length" :open="view.released || gate.passable">
      <summary>{{ t('ui.in_order', { n: ok.length }) }}</summary>
      <ul>
        <li v-for="i in ok" :key="i.id" class="row item" :data-testid="'item-' + i.id">
          <StateMark state="ok" />
          <span
            ><strong>{{ t('finding.' + i.id) }}</strong> {{ say(i.code, i.with, session.pref) }}</span
          >
        </li>
      </ul>
    </details>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 8px 0;
}
.item {
  padding: 6px 0;
  border-top: 1px solid var(--rule-soft);
  flex-wrap: nowrap;
}
.item .tap,
.acts .tap {
  white-space: nowrap;
  padding: 4px 10px;
}
.item .tap {
  margin-left: auto;
}
.gate > header {
  margin: 0;
}
.acts:empty {
  display: none;
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
summary {
  min-height: 48px;
  display: flex;
  align-items: center;
  cursor: pointer;
}
h3 {
  margin: 10px 0 4px;
}
</style>
