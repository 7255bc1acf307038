<script setup lang="ts">
import { reactive, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import DateField from '@/components/DateField.vue'
import Faults from '@/components/Faults.vue'
import QrCode from '@/components/QrCode.vue'
import SheetBox from '@/components/SheetBox.vue'
import FreePick, { type Free } from './FreePick.vue'
import { useAsked } from '@/lib/asked'
import { dayText, momentText } from '@/lib/when'
import { t } from '@/lib/words'

/** For who teaches: set an exercise, to everybody or to some, and see who worked what. */
const props = defineProps<{
  exercises: Schemas['PracticeExercise'][]
  sets: Schemas['ServerPracticeSetView'][]
  bounds: number[]
  hardnesses: Free['hardness'][]
}>()
const emit = defineEmits<{ changed: [] }>()
const form = reactive({ exercise: props.exercises[0]!.id as string, due: '', people: [] as string[] })
const accounts = useAsked(() => ask(api.GET('/api/accounts')))
const { value: rows, problem, act } = useAsked(() => ask(api.GET('/api/practice/results')))
const done = ref(false)
const free = ref<Free>({ pattern: 'pickup-front-rear-vacuum', hardness: 'usual', seed: null })
/** A link by which guests come to work one of them. */
const link = ref<Schemas['ServerPass'] | null>(null)
const linkOf = (id: string) => act(() => ask(api.POST('/api/practice/sets/{id}/link', { params: { path: { id } } })))
const invite = async (id: string) => (link.value = (await linkOf(id)) ?? null)
const origin = window.location.origin
async function set() {
  const { seed, ...kind } = free.value
  const chosen = form.exercise === 'free' ? { ...kind, ...(seed ? { seed } : {}) } : {}
  const body = { exercise: form.exercise as never, due_on: form.due, people: form.people, ...chosen }
  done.value = !!(await act(() => ask(api.POST('/api/practice/sets', { body }))))
  emit('changed')
}
async function drop(id: string) {
  await act(() => ask(api.DELETE('/api/practice/sets/{id}', { params: { path: { id } } })))
  emit('changed')
}
</script>

<template>
  <section class="field" data-testid="teach">
    <header>
      <h2>{{ t('practice.teach') }}</h2>
    </header>
    <Faults v-if="problem" :problem="problem" />
    <div class="row">
      <select v-model="form.exercise" class="tap" :aria-label="t('practice.exercise')" data-testid="set-exercise">
        <option v-for="x in exercises" :key="x.id" :value="x.id">{{ t('exercise.' + x.id) }}</option>
        <option value="free">{{ t('exercise.free') }}</option>
      </select>
      <FreePick v-if="form.exercise === 'free'" v-model="free" :bounds="bounds" :hardnesses="hardnesses" />
      <DateField v-model="form.due" :label="t('practice.due_on')" />
      <button type="button" class="tap main" data-testid="set-do" @click="set">{{ t('practice.set') }}</button>
      <span v-if="done" role="status">{{ t('ui.saved') }}</span>
    </div>
    <fieldset class="row people">
      <legend class="small">{{ t('practice.people') }}</legend>
      <label v-for="a in accounts.value.value ?? []" :key="a.id" class="tap">
        <input v-model="form.people" type="checkbox" :value="a.id" /> {{ a.display }}
      </label>
    </fieldset>
    <p v-for="s in sets" :key="s.id" class="row">
      {{ t('exercise.' + s.exercise) }} <span class="small">{{ dayText(s.set_at) }}</span>
      <button type="button" class="tap" data-testid="set-link" @click="invite(s.id)">
        {{ t('practice.guest_link') }}
      </button>
      <button type="button" class="tap" @click="drop(s.id)">{{ t('practice.take_back') }}</button>
    </p>
    <SheetBox :show="!!link" :title="t('practice.guest_link')" :width="460" @update:show="link = null">
      <template v-if="link">
        <p>{{ t('practice.guest_link_note', { until: momentText(link.expires_at) }) }}</p>
        <QrCode v-for="a in link.addresses.slice(0, 1)" :key="a.url" :at="a" />
        <p v-if="!link.addresses.length" class="caution">{{ t('ui.pass_only_here') }}</p>
        <p class="small fig" data-testid="guest-link">{{ origin + link.path }}</p>
      </template>
    </SheetBox>
    <table v-if="rows?.length" data-testid="results">
      <thead>
        <tr>
          <th scope="col">{{ t('audit.who') }}</th>
          <th scope="col">{{ t('practice.exercise') }}</th>
          <th scope="col">{{ t('audit.when') }}</th>
          <th scope="col">{{ t('practice.marks') }}</th>
          <th scope="col">{{ t('practice.minutes') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.job">
          <th scope="row">{{ r.who }}</th>
          <td>
            <RouterLink v-if="r.ended_at" :to="`/practice/${r.job}/end`">{{ t('exercise.' + r.exercise) }}</RouterLink>
            <template v-else>{{ t('exercise.' + r.exercise) }}</template>
          </td>
          <td class="fig">{{ dayText(r.started_at) }}</td>
          <td class="fig">{{ r.total ?? '–' }}</td>
          <td class="fig">{{ r.ended_at ? `${r.minutes} / ${r.own}` : '–' }}</td>
        </tr>
      </tbody>
    </table>
    <a v-if="rows?.length" class="tap" href="/api/practice/results.csv">{{ t('practice.csv') }}</a>
  </section>
</template>

<style scoped>
.people {
  border: 0;
  padding: 0;
}
th,
td {
  text-align: left;
  padding: 6px 14px 6px 0;
}
</style>
