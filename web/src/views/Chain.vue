<script setup lang="ts">
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import TopBar from '@/components/TopBar.vue'
import { useAsked } from '@/lib/asked'
import { t } from '@/lib/words'

/** Every shop of a chain in one table, for who owns it: figures, and nobody's jobs. */
const { value: v, problem } = useAsked(() => ask(api.GET('/api/chain')))
type Row = { shop: string; open: string; figures: Schemas['StoreStatistics'] }
const rows = computed<Row[]>(() => {
  if (!v.value) return []
  const open = v.value.shops.reduce((sum, s) => sum + s.open, 0)
  return [
    ...v.value.shops.map((s) => ({ shop: s.shop, open: String(s.open), figures: s.figures })),
    { shop: t('ui.all_shops'), open: String(open), figures: v.value.together },
  ]
})
const share = (f: Schemas['StoreFigure'] | null) => (f ? Math.round(100 * f.value) + ' %' : '–')
const minutes = (f: Schemas['StoreFigure'] | null) => (f ? t('ui.minutes_n', { n: Math.round(f.value) }) : '–')
</script>

<template>
  <TopBar />
  <main class="page">
    <h1>{{ t('ui.chain') }}</h1>
    <Faults v-if="problem" :problem="problem" />
    <section v-if="v" class="field">
      <p class="small">{{ t('ui.chain_note') }}</p>
      <table data-testid="chain">
        <thead>
          <tr>
            <th scope="col">{{ t('ui.the_shop') }}</th>
            <th scope="col">{{ t('ui.open_jobs') }}</th>
            <th scope="col">{{ t('ui.released_n') }}</th>
            <th scope="col">{{ t('ui.right_first') }}</th>
            <th scope="col">{{ t('ui.came_back') }}</th>
            <th scope="col">{{ t('ui.named_first') }}</th>
            <th scope="col">{{ t('ui.mean_minutes') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, i) in rows" :key="i" :class="{ sum: i === rows.length - 1 }">
            <th scope="row">{{ r.shop }}</th>
            <td class="fig">{{ r.open }}</td>
            <td class="fig">{{ r.figures.released }}</td>
            <td class="fig">{{ share(r.figures.right_first) }}</td>
            <td class="fig">{{ share(r.figures.comebacks) }}</td>
            <td class="fig">{{ share(r.figures.named) }}</td>
            <td class="fig">{{ minutes(r.figures.minutes) }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </main>
</template>

<style scoped>
th,
td {
  padding: 8px 14px 8px 0;
  text-align: left;
}
.sum > * {
  border-top: 4px double var(--ink);
}
</style>
