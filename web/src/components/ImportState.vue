<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** How far a file of units is, and every bad row where it was refused. */
const props = defineProps<{ state: Schemas['ServerImportView'] }>()
const session = useSession()
const most = 50
const share = computed(() => (props.state.total ? props.state.done / props.state.total : 0))
const words = computed(() => {
  const s = props.state
  const key = s.state === 'running' && !s.total ? 'reading' : s.state
  return t('ui.import_' + key, { name: s.name, done: s.done, total: s.total, n: s.problems.length })
})
</script>

<template>
  <section class="field" data-testid="import-state" role="status">
    <p :class="{ problem: state.state === 'refused' || state.state === 'failed' }">{{ words }}</p>
    <div
      v-if="state.state === 'running'"
      class="bar"
      role="progressbar"
      :aria-label="words"
      :aria-valuenow="Math.round(100 * share)"
      aria-valuemin="0"
      aria-valuemax="100"
    >
      <i :style="{ width: 100 * share + '%' }" />
    </div>
    <ul v-if="state.problems.length">
      <li v-for="(p, i) in state.problems.slice(0, most)" :key="i">
        <strong class="fig">{{ t('ui.import_line', { line: p.line }) }}</strong> {{ p.id }}
        {{ p.what.path.replace('$.', '') }}:
        {{ say(p.what.code, p.what.with, session.pref) }}
      </li>
      <li v-if="state.problems.length > most">{{ t('ui.import_more', { n: state.problems.length - most }) }}</li>
    </ul>
  </section>
</template>

<style scoped>
.bar {
  height: 16px;
  border: 1px solid var(--rule);
}
.bar i {
  display: block;
  height: 100%;
  background: var(--a);
  transition: width 0.3s;
}
ul {
  margin: 8px 0 0;
  padding-left: 20px;
  max-height: 320px;
  overflow: auto;
}
</style>
