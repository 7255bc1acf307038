<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import Experience from '@/components/shop/Experience.vue'
import FigureBars from '@/components/shop/FigureBars.vue'
import FigureCourse from '@/components/shop/FigureCourse.vue'
import FigureJobs, { type Opened } from '@/components/shop/FigureJobs.vue'
import TopBar from '@/components/TopBar.vue'
import { useAsked } from '@/lib/asked'
import { has, t, wheels } from '@/lib/words'

/** What closed jobs come to, each figure with the jobs it rests on, and what the shop has learned. */
const days = 730
const { value: v, problem } = useAsked(() => ask(api.GET('/api/statistics', { params: { query: { days } } })))
const set = useAsked(() => ask(api.GET('/api/settings')))
const percent = (x: number) => Math.round(100 * x) + ' %'
const whole = (x: number) => String(Math.round(x))
const minutes = (x: number) => t('ui.minutes_n', { n: Math.round(x) })
interface Top {
  name: string
  f: Schemas['StoreFigure'] | null
  text: (x: number) => string
  /** What it opens to: of a share, the jobs that went against it. */
  opens: Omit<Opened, 'title'> & { says: string }
}
const top = computed<Top[]>(() => {
  if (!v.value) return []
  const days = set.value.value?.comeback_days ?? 90
  return [
    {
      name: t('ui.right_first'),
      f: v.value.right_first,
      text: percent,
      opens: { kind: 'released', value: '0', says: t('ui.not_right_first') },
    },
    {
      name: t('ui.comebacks', { days }),
      f: v.value.comebacks,
      text: percent,
      opens: { kind: 'back', says: t('ui.comebacks', { days }) },
    },
    {
      name: t('ui.named_first'),
      f: v.value.named,
      text: percent,
      opens: { kind: 'named', value: '0', says: t('ui.not_named_first') },
    },
    {
      name: t('ui.mean_minutes'),
      f: v.value.minutes,
      text: whole,
      opens: { kind: 'minutes', says: t('ui.mean_minutes') },
    },
  ]
})
const opened = ref<Opened | null>(null)
const named = (prefix: string) => (id: string) => (has(prefix + id) ? t(prefix + id) : id)
type Bars = [kind: Schemas['JobTallyKind'], title: string, name: (of: string) => string, text: (x: number) => string]
const bars: Bars[] = [
  ['was', t('ui.by_was'), (id) => (has('fault_id.' + id) ? t('fault_id.' + id) : t('ui.really_other')), whole],
  ['pattern', t('ui.by_kind'), named('pattern.'), percent],
  ['maker', t('ui.by_maker'), (x) => x, percent],
  ['sign', t('ui.by_sign'), named('finding.'), percent],
  ['station', t('ui.by_station'), named('station.'), minutes],
  ['wheel', t('ui.by_wheel'), wheels, minutes],
  ['method', t('ui.by_method'), named('method.'), minutes],
  ['water', t('ui.by_water'), (x) => x, (x) => x.toFixed(1) + ' %'],
]
type Course = [
  kind: Schemas['JobTallyKind'],
  title: string,
  value: (m: Schemas['StoreMonth']) => number,
  text: (x: number) => string,
  top?: number,
]
const courses = computed<Course[]>(() => [
  ['released', t('ui.right_first'), (m) => m.right_first, percent, 1],
  ['back', t('ui.comebacks', { days: set.value.value?.comeback_days ?? 90 }), (m) => m.comebacks, percent],
  ['minutes', t('ui.mean_minutes'), (m) => m.minutes, whole],
])
</script>

<template>
  <TopBar />
  <main class="page">
    <h1>{{ t('ui.figures') }}</h1>
    <Faults v-if="problem" :problem="problem" />
    <section v-if="v" class="field head" data-testid="figures">
      <button
        v-for="x in top"
        :key="x.name"
        type="button"
        class="plain"
        :disabled="!x.f"
        data-testid="figure-top"
        @click="opened = { ...x.opens, title: x.opens.says }"
      >
        <strong class="fig big">{{ x.f ? x.text(x.f.value) : '–' }}</strong>
        <span>{{ x.name }}</span>
        <span class="small">{{ x.f ? t('ui.jobs_counted', { n: x.f.jobs }) : t('ui.too_few') }}</span>
      </button>
    </section>
    <div v-if="v && v.course.length > 1" class="three">
      <FigureCourse
        v-for="[kind, title, value, text, most] in courses"
        :key="kind"
        :title="title"
        :months="v.course"
        :value="value"
        :text="text"
        :top="most"
        @pick="(month, said) => (opened = { kind, month, title: said })"
      />
    </div>
    <FigureJobs v-if="opened" :key="JSON.stringify(opened)" :opened="opened" :days="days" @close="opened = null" />
    <div v-if="v" class="two">
      <FigureBars
        v-for="[kind, title, name, text] in bars"
        :key="kind"
        :title="title"
        :rows="v.kinds[kind] ?? []"
        :name="name"
        :text="text"
        @pick="(of, said) => (opened = { kind, of, title: said })"
      />
    </div>
    <Experience />
  </main>
</template>

<style scoped>
.head {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 16px;
}
.three {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 320px), 1fr));
  gap: 14px;
  margin: 14px 0;
}
.three > .field {
  margin: 0;
}
.plain {
  display: grid;
  text-align: left;
  background: none;
  border: 0;
  padding: 0;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}
.plain:disabled {
  cursor: default;
}
.big {
  font-size: 40px;
}
</style>
