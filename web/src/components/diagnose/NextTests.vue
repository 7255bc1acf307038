<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { has, t, testName } from '@/lib/words'

/** The tests worth doing now, the best first, with why and what each answer would change. */
defineProps<{ tests: Schemas['DiagnoseNextTest'][]; current: string | null }>()
defineEmits<{ start: [string] }>()
const place = (p: string) => (has('value.' + p) ? t('value.' + p) : p)
function answer(a: Schemas['DiagnoseAnswer']): string {
  const value = has('value.' + a.value) ? t('value.' + a.value) : a.value
  const then = a.then_fault
    ? t('fault_id.' + a.then_fault) + (a.then_at ? ', ' + a.then_at : '')
    : t('fault_id.healthy')
  return t('ui.answer', {
    finding: t('finding.' + a.finding.split(':')[0]),
    value: a.finding.includes(':') ? place(a.finding.split(':')[1]!) + ' ' + value : value,
    then,
    percent: Math.round(a.then_probability * 100),
    action: t('action.' + a.then_action),
  })
}
</script>

<template>
  <ol class="tests" data-testid="next-tests">
    <li v-for="(n, i) in tests.slice(0, 3)" :key="n.id" :class="{ first: i === 0 }">
      <div class="row spread">
        <div>
          <strong>{{ testName(n.id, n.again) }}</strong>
          <span class="small"> {{ t('ui.minutes', { n: n.minutes }) }}</span>
        </div>
        <button
          type="button"
          class="tap"
          :class="{ main: i === 0 }"
          :aria-pressed="current === n.id"
          :data-testid="'test-' + n.id"
          :aria-label="`${t('ui.do_test')}: ${t('test.' + n.id)}`"
          @click="$emit('start', n.id)"
        >
          {{ t('ui.do_test') }}
        </button>
      </div>
      <p class="small">{{ n.again ? t('ui.again_why') : t('test_how.' + n.id) }}</p>
      <p v-for="g in n.gates" :key="g" class="caution">{{ t('gate_step.' + g) }}.</p>
      <p v-if="n.opens_hydraulics" class="caution">{{ t('ui.opens') }}</p>
      <p v-if="n.needs.length" class="small">{{ t('ui.needs') }} {{ n.needs.map((x) => t('tool.' + x)).join(', ') }}</p>
      <details v-if="n.answers.length">
        <summary class="small">{{ t('ui.what_changes') }}</summary>
        <ul class="small">
          <li v-for="a in n.answers" :key="a.value">{{ answer(a) }}</li>
        </ul>
      </details>
    </li>
  </ol>
</template>

<style scoped>
.tests {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 10px;
}
.tests > li {
  border-top: 1px solid var(--rule-soft);
  padding-top: 8px;
}
.first {
  border-top: 4px double var(--ink) !important;
}
summary {
  min-height: 32px;
  cursor: pointer;
}
ul {
  margin: 0;
  padding-left: 18px;
}
.caution {
  margin: 4px 0;
}
</style>
