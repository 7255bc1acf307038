<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { actName } from '@/lib/practicewords'
import { t, wheels } from '@/lib/words'

/** Both ways on one time line, step by step: what was done, what was known at that moment, and what was most worth doing. */
const props = defineProps<{ result: Schemas['PracticeResult'] }>()
const most = computed(() => Math.max(1, ...[...props.result.way, ...props.result.own].map((m) => m.minute)))
const minute = ref(0)
type Moment = Schemas['PracticeMoment']
const last = (way: Moment[]) => way.filter((m) => m.minute <= minute.value).length - 1
const rows = computed(() =>
  (['way', 'own'] as const).map((key) => {
    const way = props.result[key]
    const i = last(way)
    return { key, way, i, at: way[i] }
  }),
)
const times = computed(() =>
  [...new Set([...props.result.way, ...props.result.own].map((m) => m.minute))].sort((a, b) => a - b),
)
function step(d: number) {
  const list = times.value
  const at = list.filter((x) => x <= minute.value).length - 1
  minute.value = list[Math.min(list.length - 1, Math.max(0, at + d))] ?? 0
}
const percent = (p: number) => Math.round(100 * p) + ' %'
const worth = (m: Moment) => t((m.worth_act ? 'action.' : 'test.') + m.worth)
</script>

<template>
  <section class="field" data-testid="replay">
    <header>
      <h2>{{ t('practice.replay') }}</h2>
      <span class="small fig">{{ t('ui.minutes_n', { n: Math.round(minute) }) }}</span>
    </header>
    <div class="row">
      <button type="button" class="tap" data-testid="replay-back" @click="step(-1)">
        {{ t('practice.step_back') }}
      </button>
      <input v-model.number="minute" type="range" min="0" :max="most" step="0.1" :aria-label="t('practice.replay')" />
      <button type="button" class="tap" data-testid="replay-on" @click="step(1)">{{ t('practice.step_on') }}</button>
    </div>
    <div v-for="row in rows" :key="row.key" class="line">
      <h3>{{ t(row.key === 'way' ? 'practice.yours' : 'practice.engine') }}</h3>
      <svg viewBox="0 0 1000 20" preserveAspectRatio="none" height="20" width="100%" aria-hidden="true">
        <path d="M0 10H1000" class="rail" />
        <path
          v-for="(m, i) in row.way"
          :key="i"
          :d="`M${(1000 * m.minute) / most} 2v16`"
          :class="{ now: i === row.i, test: m.do === 'test' || m.do === 'read' }"
        />
      </svg>
      <div v-if="row.at" class="two now" :data-testid="'replay-' + row.key">
        <p>
          <strong>{{ actName(row.at) }}</strong>
        </p>
        <p class="small">
          {{ t('practice.knew') }}
          <span v-for="k in row.at.knew" :key="k.id + (k.at ?? '')"
            >{{ t('fault_id.' + k.id) }} {{ k.at ? wheels(k.at) : '' }} <b class="fig">{{ percent(k.p) }}</b>;
          </span>
          {{ t('practice.nothing_wrong') }} <b class="fig">{{ percent(row.at.healthy) }}</b>.<br />{{
            t('practice.worth')
          }}
          <strong>{{ worth(row.at) }}</strong>
        </p>
      </div>
    </div>
  </section>
</template>

<style scoped>
input {
  flex: 1 1 300px;
  height: 44px;
}
.rail {
  stroke: var(--rule);
  stroke-width: 1;
}
path {
  stroke: var(--ink);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
  opacity: 0.35;
}
.test {
  stroke-dasharray: 3 2;
}
path.now {
  opacity: 1;
  stroke-width: 5;
}
.line {
  margin-top: 10px;
}
</style>
