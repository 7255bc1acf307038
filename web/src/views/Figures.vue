<script setup lang="ts">
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import FigureBars from '@/components/shop/FigureBars.vue'
import TopBar from '@/components/TopBar.vue'
import { useAsked } from '@/lib/asked'
import { has, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** What closed jobs come to, each figure with the jobs it rests on, and what the shop has learned. */
const session = useSession()
const { value: v, problem } = useAsked(() => ask(api.GET('/api/statistics', { params: { query: { days: 730 } } })))
const set = useAsked(() => ask(api.GET('/api/settings')))
const learned = useAsked(() => ask(api.GET('/api/experience')))
const percent = (x: number) => Math.round(100 * x) + ' %'
type Top = [string, Schemas['StoreFigure'] | null, (x: number) => string]
const top = computed<Top[]>(() =>
  v.value
    ? [
        [t('ui.right_first'), v.value.right_first, percent],
        [t('ui.comebacks', { days: set.value.value?.comeback_days ?? 90 }), v.value.comebacks, percent],
        [t('ui.named_first'), v.value.named, percent],
        [t('ui.mean_minutes'), v.value.minutes, (x: number) => String(Math.round(x))],
      ]
    : [],
)
const pattern = (id: string) => (has('pattern.' + id) ? t('pattern.' + id) : id)
const fault = (id: string) => (has('fault_id.' + id) ? t('fault_id.' + id) : t('ui.really_other'))
const moved = computed(() =>
  Object.entries(learned.value.value?.priors ?? {}).map(([kind, list]) => ({
    kind,
    jobs: learned.value.value!.kinds[kind]!.jobs,
    rows: list.filter((p) => p.count > 0).sort((a, b) => b.count - a.count),
  })),
)
const on = computed(() => !!set.value.value?.experience)
const flip = () =>
  set.act(() => ask(api.PUT('/api/settings', { body: { ...set.value.value!, experience: !on.value } })))
async function bring(e: Event) {
  const file = (e.target as HTMLInputElement).files?.[0]
  if (!file) return
  const body = JSON.parse(await file.text()) as { kinds: Record<string, never> }
  await learned.act(() =>
    ask(api.PUT('/api/experience', { body: { format: 'geminate.experience/1', kinds: body.kinds } })),
  )
}
</script>

<template>
  <TopBar />
  <main class="page">
    <h1>{{ t('ui.figures') }}</h1>
    <Faults v-if="problem" :problem="problem" />
    <section v-if="v" class="field head" data-testid="figures">
      <div v-for="[name, f, text] in top" :key="name">
        <strong class="fig big">{{ f ? text(f.value) : '–' }}</strong>
        <span>{{ name }}</span>
        <span class="small">{{ f ? t('ui.jobs_counted', { n: f.jobs }) : t('ui.too_few') }}</span>
      </div>
    </section>
    <div v-if="v" class="two">
      <FigureBars :title="t('ui.by_was')" :rows="v.was" :name="fault" :text="(x) => String(x)" />
      <FigureBars :title="t('ui.by_kind')" :rows="v.by_pattern" :name="pattern" :text="percent" />
      <FigureBars :title="t('ui.by_maker')" :rows="v.makers" :name="(x) => x" :text="percent" />
      <FigureBars :title="t('ui.by_water')" :rows="v.water" :name="(x) => x" :text="(x) => x.toFixed(1) + ' %'" />
    </div>
    <section class="field" data-testid="experience">
      <header>
        <h2>{{ t('ui.experience') }}</h2>
      </header>
      <p>{{ t('ui.experience_note') }}</p>
      <div class="row">
        <button
          type="button"
          class="tap"
          :aria-pressed="on"
          :disabled="!session.may('manage_settings') || !set.value.value"
          data-testid="experience-on"
          @click="flip"
        >
          {{ t('ui.experience_on') }}
        </button>
        <a class="tap" href="/api/experience" download="experience.json">{{ t('ui.experience_out') }}</a>
        <label v-if="session.may('manage_settings')" class="tap"
          >{{ t('ui.experience_in') }}<input type="file" accept="application/json" class="file" @change="bring"
        /></label>
      </div>
      <Faults v-if="learned.problem.value" :problem="learned.problem.value" />
      <details v-for="m in moved" :key="m.kind">
        <summary>{{ pattern(m.kind) }}, {{ t('ui.jobs_counted', { n: m.jobs }) }}</summary>
        <table>
          <tbody>
            <tr v-for="p in m.rows" :key="p.id">
              <th scope="row">{{ fault(p.id) }}</th>
              <td class="fig">{{ p.count }}</td>
              <td class="fig">{{ (100 * p.table).toFixed(1) }} % → {{ (100 * p.now).toFixed(1) }} %</td>
            </tr>
          </tbody>
        </table>
      </details>
    </section>
  </main>
</template>

<style scoped>
.head {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 16px;
}
.head > div {
  display: grid;
}
.big {
  font-size: 40px;
}
.file {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
summary {
  min-height: 48px;
  display: flex;
  align-items: center;
  cursor: pointer;
}
th {
  text-align: left;
  font-weight: 500;
}
</style>
