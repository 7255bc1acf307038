<script setup lang="ts">
import { computed } from 'vue'
import { api, ask } from '@/api/client'
import Faults from '@/components/Faults.vue'
import { useAsked } from '@/lib/asked'
import { has, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** What the shop has found, by kind of vehicle, and how it moves what is looked for first. */
const session = useSession()
const set = useAsked(() => ask(api.GET('/api/settings')))
const learned = useAsked(() => ask(api.GET('/api/experience')))
const pattern = (id: string) => (has('pattern.' + id) ? t('pattern.' + id) : id)
const fault = (id: string) => (has('fault_id.' + id) ? t('fault_id.' + id) : t('ui.really_other'))
/** A sign that is one place of a list is called by both. */
const signName = (id: string) => {
  const [list, place] = id.split(':')
  return place ? t('ui.sign_at', { sign: t('finding.' + list), place: t('value.' + place) }) : t('finding.' + id)
}
const moved = computed(() =>
  Object.entries(learned.value.value?.priors ?? {}).map(([kind, list]) => ({
    kind,
    jobs: learned.value.value!.kinds[kind]!.jobs,
    rows: list.filter((p) => p.count > 0).sort((a, b) => b.count - a.count),
    signs: (learned.value.value?.signs[kind] ?? []).slice(0, 20),
  })),
)
const on = computed(() => !!set.value.value?.experience)
const flip = () =>
  set.act(() => ask(api.PUT('/api/settings', { body: { ...set.value.value!, experience: !on.value } })))
async function bring(e: Event) {
  const input = e.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const body = await file
    .text()
    .then(JSON.parse)
    .catch(() => null)
  if (!body) learned.problem.value = { code: 'ui.not_a_job_file' }
  else
    await learned.act(() =>
      ask(api.PUT('/api/experience', { body: { format: body.format ?? '', kinds: body.kinds ?? {} } })),
    )
  input.value = ''
}
</script>

<template>
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
      <ul v-if="m.signs.length" data-testid="signs-here">
        <li v-for="s in m.signs" :key="s.sign + s.fault">
          {{
            t('ui.sign_here', {
              sign: signName(s.sign),
              value: t('value.' + s.value),
              fault: fault(s.fault),
              n: s.seen,
              of: s.of,
              table: Math.round(100 * s.table),
              now: Math.round(100 * s.now),
            })
          }}
        </li>
      </ul>
    </details>
  </section>
</template>

<style scoped>
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
