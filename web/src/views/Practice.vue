<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import FreePick, { type Free } from '@/components/practice/FreePick.vue'
import PracticeCourse from '@/components/practice/PracticeCourse.vue'
import PracticeTeach from '@/components/practice/PracticeTeach.vue'
import TopBar from '@/components/TopBar.vue'
import { useAsked } from '@/lib/asked'
import { keep, kept } from '@/lib/local'
import { openJob } from '@/lib/opening'
import { bringAll } from '@/lib/practice'
import { ownPractice, type OwnPractice } from '@/lib/practiceown'
import { dayText } from '@/lib/when'
import { t } from '@/lib/words'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'

/** The practice bay: exercises to be worked on a simulated vehicle, what is set, and how one has fared. */
const session = useSession()
const router = useRouter()
const key = `practice-list.${session.user?.id ?? ''}`
/** The list as the server has it; without the server as it last was, and what was begun here. */
const {
  value: v,
  problem,
  load,
} = useAsked(async () => {
  try {
    await bringAll()
    const list = await ask(api.GET('/api/practice'))
    void keep(key, list)
    return list
  } catch (e) {
    const was = e instanceof Refused && (e.offline || e.status >= 500) ? await kept<List>(key) : undefined
    if (!was) throw e
    return was
  }
})
type List = Schemas['ServerPracticeList']
const alone = ref<{ job: string; own: OwnPractice }[]>([])
watch(v, async () => (alone.value = (await ownPractice.all()).filter((x) => x.own.ahead && !x.own.ended)))
/** What was begun without the server is known there only when its opening has gone. */
const outbox = useOutbox()
watch(
  () => outbox.mine.length,
  (left) => left || void load(),
)
const refused = ref<Problem | null>(null)
const busy = ref(false)
const free = ref<Free>({ pattern: 'pickup-front-rear-vacuum', hardness: 'usual', seed: null })
async function begin(body: Schemas['ServerPracticeIn']) {
  busy.value = true
  refused.value = null
  try {
    const { job, step } = await ask(api.POST('/api/practice', { body }))
    await router.push(`/jobs/${job}/${step === 'verifying' ? 'verify' : 'diagnose'}`)
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    refused.value = e.problem
  }
  busy.value = false
}
/** Free practice begins here, by its number: the server hears of it as soon as it can. */
async function beginFree() {
  busy.value = true
  refused.value = null
  const { pattern, hardness } = free.value
  const seed = free.value.seed ?? 1 + Math.floor(Math.random() * 0xffffffff)
  try {
    const body = { vehicle: 'Practice', plate: '', customer: '', complaint: '-', pattern, practice: true }
    const { id } = await openJob({ ...body, practice_seed: seed, practice_hardness: hardness })
    await ownPractice.keep(id, { pattern, hardness, seed, did: [], ahead: false, started: new Date().toISOString() })
    await router.push(`/jobs/${id}/diagnose`)
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    refused.value = e.problem
  }
  busy.value = false
}
const steps = ['finding', 'deciding', 'choosing', 'doing', 'bleeding', 'verifying'] as const
const of = (step: string) => v.value?.exercises.filter((x) => x.step === step) ?? []
/** The best marks of an exercise so far. */
const best = computed(() => {
  const out: Record<string, number> = {}
  for (const r of v.value?.mine ?? []) if (r.total != null) out[r.exercise] = Math.max(out[r.exercise] ?? 0, r.total)
  return out
})
/** Those begun and not ended, of the server and of this device alone. */
const open = computed(() => {
  const mine = v.value?.mine.filter((r) => !r.ended_at) ?? []
  const here = alone.value.filter((x) => !v.value?.mine.some((r) => r.job === x.job))
  return [
    ...here.map((x) => ({ job: x.job, exercise: 'free', started_at: x.own.started })),
    ...mine.map(({ job, exercise, started_at }) => ({ job, exercise, started_at })),
  ]
})
</script>

<template>
  <TopBar />
  <main class="page">
    <h1>{{ t('practice.bay') }}</h1>
    <p class="lead">{{ t('practice.what') }}</p>
    <Faults v-if="problem || refused" :problem="(problem ?? refused)!" />
    <template v-if="v">
      <section v-if="open.length || v.sets.length" class="field">
        <p v-for="r in open" :key="r.job" class="row">
          <RouterLink class="tap main" :to="`/jobs/${r.job}/diagnose`">{{ t('practice.go_on') }}</RouterLink>
          {{ t('exercise.' + r.exercise) }} <span class="small">{{ dayText(r.started_at) }}</span>
        </p>
        <p v-for="s in v.sets" :key="s.id" class="row" data-testid="set">
          <button type="button" class="tap main" :disabled="busy" @click="begin({ exercise: s.exercise, set: s.id })">
            {{ t('practice.begin') }}
          </button>
          {{ t('exercise.' + s.exercise) }}
          <span class="small"
            >{{ t('practice.set_by', { who: s.set_by }) }}
            <template v-if="s.due_on">{{ t('practice.due', { day: dayText(s.due_on) }) }}</template></span
          >
        </p>
      </section>
      <section v-for="step in v.exercises.length ? steps : []" :key="step" class="field">
        <header>
          <h2>{{ t('practice_step.' + step) }}</h2>
          <span class="small">{{ t('practice_teaches.' + step) }}</span>
        </header>
        <div class="grid">
          <button
            v-for="x in of(step)"
            :key="x.id"
            type="button"
            class="tap ex"
            :disabled="busy"
            :data-testid="'exercise-' + x.id"
            @click="begin({ exercise: x.id })"
          >
            <strong>{{ t('exercise.' + x.id) }}</strong>
            <span class="small fig"
              >{{ t('pattern.' + x.pattern)
              }}<template v-if="best[x.id] != null"> · {{ t('marks.of', { n: best[x.id]! }) }}</template></span
            >
          </button>
        </div>
      </section>
      <section v-if="v.exercises.length" class="field" data-testid="free">
        <header>
          <h2>{{ t('practice.free') }}</h2>
          <span class="small">{{ t('practice.free_note') }}</span>
        </header>
        <div class="row">
          <FreePick v-model="free" :bounds="v.bounds.number" :hardnesses="v.hardness" />
          <button type="button" class="tap main" :disabled="busy" data-testid="free-begin" @click="beginFree">
            {{ t('practice.begin') }}
          </button>
        </div>
      </section>
      <PracticeCourse :rows="v.mine" />
      <PracticeTeach
        v-if="session.may('set_exercises')"
        :exercises="v.exercises"
        :sets="v.sets"
        :bounds="v.bounds.number"
        :hardnesses="v.hardness"
        @changed="load"
      />
    </template>
  </main>
</template>

<style scoped>
.lead {
  max-width: 44em;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(260px, 1fr));
  gap: 8px;
}
.ex {
  flex-direction: column;
  align-items: flex-start;
  text-align: left;
  gap: 2px;
  height: 100%;
}
</style>
