<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import AskChain from '@/components/shop/AskChain.vue'
import Fig from '@/components/Fig.vue'
import WaterLine from '@/components/shop/WaterLine.vue'
import Faults from '@/components/Faults.vue'
import Schematic from '@/components/Schematic.vue'
import TopBar from '@/components/TopBar.vue'
import { useAsked } from '@/lib/asked'
import { dayText } from '@/lib/when'
import { has, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** One vehicle: its jobs, its water over time, when it is due, and the entries joined to it. */
const route = useRoute()
const router = useRouter()
const session = useSession()
const id = String(route.params.id)
const path = { params: { path: { id } } }
const { value: v, problem, act } = useAsked(() => ask(api.GET('/api/vehicles/{id}', path)))
const into = ref('')
interface Noted {
  step?: string
  which?: string
  mm?: number
  nm?: number
}
interface Facts {
  Noted?: Noted[]
  Photos?: { id: string; step: string; note?: string }[]
  Was?: string
  Scope?: string
  Loops?: number
}
const jobs = computed(() =>
  (v.value?.jobs ?? []).map((j) => ({
    ...j,
    facts: j.facts as unknown as Facts,
    card: j.card as unknown as Schemas['JobCard'],
  })),
)
/** What was measured and set, the last job's figure of each; its photos, the last first. */
const noted = computed(() => {
  const out = new Map<string, Noted>()
  for (const j of jobs.value)
    for (const n of j.facts.Noted ?? []) {
      const key = `${n.which ?? ''}${n.step ?? ''}`
      if (!out.has(key)) out.set(key, n)
    }
  return [...out.values()]
})
const photos = computed(() =>
  jobs.value.flatMap((j) => (j.facts.Photos ?? []).map((p) => ({ ...p, job: j.id }))).slice(0, 8),
)
const stepText = (step: string) => (has('step.' + step) ? t('step.' + step) : step)
const overdue = computed(() => !!v.value?.due_at && new Date(v.value.due_at).getTime() < Date.now())
async function join() {
  const found = await ask(api.GET('/api/vehicles', { params: { query: { text: into.value } } }))
  const other = found.find((x) => x.id !== id)
  if (!other) return
  await ask(api.POST('/api/vehicles/{id}/join', { ...path, body: { into: other.id } }))
  void router.push(`/vehicles/${other.id}`)
}
/** What is due is put down for tomorrow by one tap; the day is changed at its intake. */
async function putDown() {
  const day = new Date(Date.now() + 86_400_000)
  const for_day = [day.getFullYear(), day.getMonth() + 1, day.getDate()]
    .map((n) => String(n).padStart(2, '0'))
    .join('-')
  const body = { vehicle: '', plate: '', customer: '', complaint: '', pattern: '', from: jobs.value[0]!.id, for_day }
  const job = await ask(api.POST('/api/jobs', { body }))
  void router.push(`/jobs/${job.id}/intake`)
}
const part = (joined: string) =>
  act(() => ask(api.POST('/api/vehicles/{id}/part', { params: { path: { id: joined } } })))
</script>

<template>
  <TopBar />
  <main class="page">
    <Faults v-if="problem" :problem="problem" />
    <template v-if="v">
      <h1>{{ v.plate || v.vin }} {{ v.name }}</h1>
      <p class="row">
        <span v-if="v.vin">{{ t('ui.vin') }} {{ v.vin }}</span>
        <strong v-if="v.due_at" data-testid="due-at" :class="{ bad: overdue }">{{
          t(overdue ? 'ui.overdue' : 'ui.due_from', { date: dayText(v.due_at) })
        }}</strong>
        <button
          v-if="jobs.length && session.may('open_job')"
          type="button"
          class="tap"
          data-testid="put-down"
          @click="putDown"
        >
          {{ t('ui.put_down') }}
        </button>
        <a v-if="v.due_at" class="tap" :href="`/api/vehicles/${id}/due.ics`">{{ t('ui.calendar_file') }}</a>
      </p>
      <div class="two">
        <section class="field">
          <header>
            <h2>{{ t('ui.vehicle_jobs') }}</h2>
          </header>
          <RouterLink
            v-for="j in jobs"
            :key="j.id"
            class="tap wide"
            :to="`/jobs/${j.id}/record`"
            data-testid="vehicle-job"
          >
            <span class="fig">{{ dayText(j.opened_at) }}</span>
            <span>{{ j.card.complaint }}</span>
            <span class="small"
              >{{ j.facts.Scope ? t('scope.' + j.facts.Scope) : ''
              }}{{ j.facts.Was ? ': ' + t('fault_id.' + j.facts.Was) : '' }}</span
            >
          </RouterLink>
        </section>
        <section class="field tall">
          <header>
            <h2>{{ t('ui.water_trend') }}</h2>
          </header>
          <WaterLine :water="v.water" />
          <Schematic v-if="v.system" :system="v.system" class="mini" />
        </section>
        <section v-if="noted.length" class="field" data-testid="noted">
          <header>
            <h2>{{ t('ui.vehicle_figures') }}</h2>
          </header>
          <p v-if="v.pedal_from">{{ t('ui.pedal_known', { at: dayText(v.pedal_from) }) }}</p>
          <table>
            <tbody>
              <tr v-for="n in noted" :key="`${n.which}${n.step}`">
                <th scope="row">{{ n.which ? t('point.' + n.which) : stepText(n.step ?? '') }}</th>
                <td><Fig v-if="n.mm" name="mm" :value="n.mm" /><Fig v-else name="nm" :value="n.nm" /></td>
              </tr>
            </tbody>
          </table>
        </section>
        <section v-if="photos.length" class="field">
          <header>
            <h2>{{ t('ui.vehicle_photos') }}</h2>
          </header>
          <div class="row">
            <img
              v-for="p in photos"
              :key="p.id"
              :src="`/api/jobs/${p.job}/photos/${p.id}`"
              :alt="t('ui.photo_of', { what: p.note || stepText(p.step) })"
              width="150"
              loading="lazy"
            />
          </div>
        </section>
        <AskChain v-if="session.shops && session.may('ask_chain')" :id="id" />
        <section v-if="session.may('change_system')" class="field">
          <div class="row">
            <NInput
              v-model:value="into"
              class="into"
              :placeholder="t('ui.join_into')"
              :input-props="{ 'aria-label': t('ui.join_into') }"
            />
            <button type="button" class="tap" :disabled="!into.trim()" data-testid="join" @click="join">
              {{ t('ui.join_do') }}
            </button>
          </div>
          <p v-for="j in v.joined" :key="j.id" class="row">
            {{ t('ui.joined_here') }}: {{ j.plate || j.vin }}
            <button type="button" class="tap" @click="part(j.id)">{{ t('ui.part_again') }}</button>
          </p>
        </section>
      </div>
    </template>
  </main>
</template>

<style scoped>
.bad {
  color: var(--bad);
}
.tall {
  grid-row: span 2;
}
.wide {
  width: 100%;
  justify-content: flex-start;
  gap: 4px 14px;
  flex-wrap: wrap;
  margin-bottom: 6px;
}
.into {
  flex: 1 1 200px;
}
.mini {
  max-width: 340px;
}
</style>
