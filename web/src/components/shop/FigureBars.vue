<script setup lang="ts">
import { computed } from 'vue'
import { t } from '@/lib/words'

/** Figures as bars, each with the number of jobs it rests on. Circuit-like: a solid bar on a thin rail. */
const props = defineProps<{
  title: string
  rows: { of: string; jobs: number; value: number }[]
  name: (of: string) => string
  text: (value: number) => string
}>()
const emit = defineEmits<{ pick: [of: string, title: string] }>()
const most = computed(() => Math.max(1e-9, ...props.rows.map((r) => r.value)))
</script>

<template>
  <section class="field">
    <header>
      <h2>{{ title }}</h2>
    </header>
    <p v-if="!rows.length" class="small">{{ t('ui.too_few') }}</p>
    <table v-else>
      <tbody>
        <tr v-for="r in rows" :key="r.of">
          <th scope="row">
            <button
              type="button"
              class="tap bare open"
              data-testid="figure-open"
              @click="emit('pick', r.of, `${title}: ${name(r.of)}`)"
            >
              {{ name(r.of) }}
            </button>
          </th>
          <td class="bar" aria-hidden="true"><i :style="{ width: (100 * r.value) / most + '%' }" /></td>
          <td class="fig">{{ text(r.value) }}</td>
          <td class="small fig">{{ t('ui.jobs_counted', { n: r.jobs }) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
table {
  width: 100%;
}
td {
  vertical-align: middle;
}
td.fig {
  white-space: nowrap;
}
th {
  font-weight: 500;
  text-align: left;
}
.open {
  justify-content: flex-start;
  text-align: left;
  padding: 0;
}
.bar {
  width: 34%;
  border-bottom: 1px solid var(--rule-soft);
}
i {
  display: block;
  height: 14px;
  border-top: 5px solid var(--a);
  border-bottom: 5px solid var(--a);
}
</style>
