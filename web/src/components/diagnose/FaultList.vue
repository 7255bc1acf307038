<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '@/api/client'
import { t, times, wheels } from '@/lib/words'

/** The faults by probability. Each opens to the findings that speak for it and against it, in words and times. */
defineProps<{ result: Schemas['DiagnoseResult'] }>()
const open = ref<string | null>(null)
const percent = (p: number) => (p > 0.995 ? '>99' : p < 0.01 ? '<1' : String(Math.round(p * 100)))
const key = (f: Schemas['DiagnoseRanked']) => f.id + (f.at ?? '')
const strength = (b: Schemas['DiagnoseBecause']) => {
  const how = b.times >= 8 ? 'strongly' : b.times >= 2 ? 'clearly' : 'a_little'
  return t(b.for ? 'ui.for_' + how : 'ui.against_' + how)
}
/** How many times more likely, where that comes from, and of a sign how often of a hundred it is seen. */
function weight(b: Schemas['DiagnoseBecause']): string {
  const said = [t(b.for ? 'ui.times_for' : 'ui.times_against', { times: times(b.times) })]
  const of = (p: number) => (p < 0.1 ? (100 * p).toFixed(1) : String(Math.round(100 * p)))
  if (b.origin !== 'twin' && b.with <= 1 && b.without <= 1)
    said.push(t('ui.with', { with: of(b.with), without: of(b.without) }))
  said.push(t('origin.' + b.origin))
  if (b.less) said.push(t('ui.less_' + b.less))
  return said.join('; ')
}
</script>

<template>
  <ol class="faults" data-testid="faults">
    <li v-for="f in result.faults.slice(0, 6)" :key="key(f)">
      <button
        type="button"
        class="tap bare fault"
        :aria-expanded="open === key(f)"
        :data-testid="'fault-' + f.id"
        @click="open = open === key(f) ? null : key(f)"
      >
        <span class="fig p">{{ percent(f.probability) }} %</span>
        <span class="bar" aria-hidden="true"><i :style="{ width: f.probability * 100 + '%' }" /></span>
        <span class="name">{{ t('fault_id.' + f.id) }}{{ f.at ? ', ' + wheels(f.at) : '' }}</span>
      </button>
      <p v-if="open === key(f) && f.brought_by" class="small brought" data-testid="brought-by">
        {{
          t('ui.brought_by', {
            fault: t('fault_id.' + f.brought_by.id) + (f.brought_by.at ? ', ' + f.brought_by.at : ''),
          })
        }}
      </p>
      <table v-if="open === key(f)" data-testid="because">
        <tbody>
          <tr v-for="b in f.because" :key="b.finding">
            <td>{{ t('finding.' + b.finding) }}{{ b.value ? ': ' + t('value.' + b.value) : '' }}</td>
            <td>
              {{ strength(b) }}<br /><span class="small">{{ weight(b) }}</span>
            </td>
          </tr>
          <tr v-if="!f.because.length">
            <td colspan="2">{{ t('ui.no_evidence') }}</td>
          </tr>
        </tbody>
      </table>
    </li>
    <li class="row healthy">
      <span class="fig p">{{ percent(result.healthy) }} %</span><span class="name">{{ t('fault_id.healthy') }}</span>
    </li>
  </ol>
</template>

<style scoped>
.faults {
  list-style: none;
  padding: 0;
  margin: 0;
}
.fault {
  width: 100%;
  display: grid;
  grid-template-columns: 64px 90px 1fr;
  text-align: left;
  padding-left: 0;
}
.p {
  font-weight: 600;
  text-align: right;
  width: 60px;
}
.bar {
  height: 12px;
  border: 1px solid var(--rule);
}
.bar i {
  display: block;
  height: 100%;
  background: var(--a);
}
.healthy {
  color: var(--ink-2);
  min-height: 36px;
}
table {
  margin: 0 0 10px 64px;
  width: calc(100% - 64px);
}
.brought {
  margin: 0 0 4px 64px;
}
</style>
