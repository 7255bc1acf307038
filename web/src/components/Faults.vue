<script setup lang="ts">
import type { Problem } from '@/api/client'
import { has, t } from '@/lib/words'

/** A refusal with everything that is wrong, each fault naming its field. */
defineProps<{ problem: Problem }>()

function place(path: string): string {
  const key = path.replace(/^\$\.?(system\.|data\.)?/, '').replace(/\[\d+\]/g, '')
  for (const k of ['field.' + key, 'field.wheel.' + key.replace(/^wheels\./, '')]) if (has(k)) return t(k)
  return path
}
</script>

<template>
  <div class="problem" role="alert" data-testid="problem">
    <strong>{{ t(problem.code, { detail: problem.detail ?? '' }) }}</strong>
    <ul v-if="problem.faults?.length || problem.missing?.length">
      <li v-for="(f, i) in problem.faults ?? []" :key="i">
        <strong>{{ place(f.path) }}</strong> {{ t(f.code, f.with ?? {}) }} <code class="small">{{ f.path }}</code>
      </li>
      <li v-for="m in problem.missing ?? []" :key="m">{{ has('step.' + m) ? t('step.' + m) : t('finding.' + m) }}</li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  margin: 6px 0 0;
  padding-left: 20px;
}
</style>
