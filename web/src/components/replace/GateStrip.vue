<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { t } from '@/lib/words'

/** The steps nothing is done before, as one strip that fills. */
defineProps<{ gates: Schemas['PlanStep'][]; done: (id: string) => boolean; next: string }>()
</script>

<template>
  <ol class="gates" :aria-label="t('ui.gates_strip')" data-testid="gates">
    <li v-for="g in gates" :key="g.id" :class="{ done: done(g.id), next: g.id === next }" :title="t('step.' + g.id)">
      <svg viewBox="0 0 28 24" width="28" height="24" aria-hidden="true">
        <path d="M8 2h12l6 10-6 10H8L2 12z" />
        <path v-if="done(g.id)" d="M9 12.5l4 4 7-8" class="check" />
      </svg>
      <span>{{ t('gate_short.' + g.id) }}</span>
    </li>
  </ol>
</template>

<style scoped>
.gates {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  margin: 8px 0 0;
  padding: 0;
}
li {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 15px;
  color: var(--ink-2);
}
path {
  fill: none;
  stroke: currentcolor;
  stroke-width: 2;
}
.done {
  color: var(--ink);
}
.done path:first-child {
  fill: var(--ink);
}
.check {
  stroke: var(--sheet);
  stroke-width: 3;
}
.next {
  color: var(--ink);
  font-weight: 600;
}
.next path {
  fill: var(--brass);
}
</style>
