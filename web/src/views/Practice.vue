<script setup lang="ts">
import { computed, ref } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import NumField from '@/components/NumField.vue'
import PracticeCourse from '@/components/practice/PracticeCourse.vue'
import PracticeTeach from '@/components/practice/PracticeTeach.vue'
import TopBar from '@/components/TopBar.vue'
import { useAsked } from '@/lib/asked'
import { dayText } from '@/lib/when'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The practice bay: exercises to be worked on a simulated vehicle, what is set, and how one has fared. */
const session = useSession()
const router = useRouter()
const { value: v, problem, load } = useAsked(() => ask(api.GET('/api/practice')))
const refused = ref<Problem | null>(null)
const busy = ref(false)
const pattern = ref('pickup-front-rear-vacuum')
const seed = ref<number | null>(null)
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
const steps = ['finding', 'deciding', 'choosing', 'doing', 'bleeding', 'verifying'] as const
const of = (step: string) => v.value?.exercises.filter((x) => x.step === step) ?? []
/** The best marks of an exercise so far. */
const best = computed(() => {
  const out: Record<string, number> = {}
  for (const r of v.value?.mine ?? []) if (r.total != null) out[r.exercise] = Math.max(out[r.exercise] ?? 0, r.total)
  return out
})
const open = computed(() => v.value?.mine.filter((r) => !r.ended_at) ?? [])
const patterns = computed(() => session.vocabulary?.patterns ?? [])
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
      <section v-for="step in steps" :key="step" class="field">
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
      <section class="field" data-testid="free">
        <header>
          <h2>{{ t('practice.free') }}</h2>
          <span class="small">{{ t('practice.free_note') }}</span>
        </header>
        <div class="row">
          <select v-model="pattern" class="tap" :aria-label="t('ui.pattern')">
            <option v-for="p in patterns" :key="p.id" :value="p.id">{{ t('pattern.' + p.id) }}</option>
          </select>
          <NumField
            v-model="seed"
            name="plain"
            unitless
            :label="t('practice.seed')"
            :min="v.bounds.number[0]"
            :max="v.bounds.number[1]"
          />
          <button
            type="button"
            class="tap main"
            :disabled="busy"
            data-testid="free-begin"
            @click="begin({ exercise: 'free', pattern, ...(seed ? { seed } : {}) })"
          >
            {{ t('practice.begin') }}
          </button>
        </div>
      </section>
      <PracticeCourse :rows="v.mine" />
      <PracticeTeach v-if="session.may('set_exercises')" :exercises="v.exercises" :sets="v.sets" @changed="load" />
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
