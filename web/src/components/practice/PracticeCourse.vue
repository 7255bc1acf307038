<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '@/api/client'
import { dayText } from '@/lib/when'
import { t } from '@/lib/words'

/** How somebody has fared over the weeks: the marks of each exercise ended, the first on the left; each opens its end. */
const props = defineProps<{ rows: Schemas['ServerPracticeRow'][] }>()
const ended = computed(() => props.rows.filter((r) => r.ended_at).reverse())
const said = (r: Schemas['ServerPracticeRow']) =>
  `${t('exercise.' + r.exercise)}, ${dayText(r.ended_at ?? '')}: ${t('marks.of', { n: r.total ?? 0 })}`
</script>

<template>
  <section v-if="ended.length" class="field" data-testid="practice-course">
    <header>
      <h2>{{ t('practice.course') }}</h2>
    </header>
    <ol>
      <li v-for="r in ended" :key="r.job">
        <RouterLink :to="`/practice/${r.job}/end`" :aria-label="said(r)" :title="said(r)">
          <i :style="{ height: Math.max(2, r.total ?? 0) + '%' }" :class="{ not: !r.right }" />
        </RouterLink>
      </li>
    </ol>
  </section>
</template>

<style scoped>
ol {
  display: flex;
  gap: 3px;
  height: 120px;
  list-style: none;
  margin: 0;
  padding: 0;
  border-bottom: 4px double var(--ink);
}
li {
  flex: 0 1 34px;
}
a {
  display: flex;
  align-items: flex-end;
  height: 100%;
}
i {
  width: 100%;
  background: var(--ink);
}
.not {
  background: repeating-linear-gradient(45deg, var(--ink) 0 3px, transparent 3px 8px);
}
</style>
