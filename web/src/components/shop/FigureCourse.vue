<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { writtenIn } from '@/lib/units'
import { t } from '@/lib/words'

/** One figure month by month on the pair of lines: each month is a button that opens to its jobs. */
const props = defineProps<{
  title: string
  months: Schemas['StoreMonth'][]
  value: (m: Schemas['StoreMonth']) => number
  text: (x: number) => string
  /** The top of the scale, where it has one. */
  top?: number
}>()
defineEmits<{ pick: [month: string, title: string] }>()
const most = computed(() => props.top ?? Math.max(1e-9, ...props.months.map((m) => props.value(m))))
const name = (month: string) =>
  new Date(month + '-15T12:00:00').toLocaleDateString(writtenIn(), { month: 'short', year: '2-digit' })
const height = (m: Schemas['StoreMonth']) => (m.jobs ? Math.max(2, (100 * props.value(m)) / most.value) : 0)
</script>

<template>
  <section class="field" data-testid="course">
    <header>
      <h2>{{ title }}</h2>
      <span class="small fig">{{ text(most) }}</span>
    </header>
    <ol>
      <li v-for="m in months" :key="m.month">
        <button
          type="button"
          :disabled="!m.jobs"
          :aria-label="`${name(m.month)}: ${m.jobs ? text(value(m)) : '–'}, ${t('ui.jobs_counted', { n: m.jobs })}`"
          :title="`${name(m.month)}: ${m.jobs ? text(value(m)) : '–'}, ${t('ui.jobs_counted', { n: m.jobs })}`"
          data-testid="course-month"
          @click="$emit('pick', m.month, `${title}, ${name(m.month)}`)"
        >
          <i :style="{ height: height(m) + '%' }" />
        </button>
      </li>
    </ol>
    <p class="ends small fig" aria-hidden="true">
      <span>{{ name(months[0]!.month) }}</span><span>{{ name(months.at(-1)!.month) }}</span>
    </p>
  </section>
</template>

<style scoped>
ol {
  display: flex;
  gap: 2px;
  height: 110px;
  list-style: none;
  margin: 0;
  padding: 0;
  border-bottom: 4px double var(--ink);
}
li {
  flex: 1 1 0;
}
button {
  display: flex;
  align-items: flex-end;
  width: 100%;
  height: 100%;
  min-height: 0;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
button:disabled {
  cursor: default;
}
i {
  width: 100%;
  border-top: 4px solid var(--a);
  background: var(--band);
}
button:hover:not(:disabled) i {
  border-color: var(--brass);
}
.ends {
  display: flex;
  justify-content: space-between;
}
</style>
