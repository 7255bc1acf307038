<script setup lang="ts">
import { reactive, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import DateField from '@/components/DateField.vue'
import Faults from '@/components/Faults.vue'
import { useAsked } from '@/lib/asked'
import { dayText } from '@/lib/when'
import { t } from '@/lib/words'

/** For who teaches: set an exercise, to everybody or to some, and see who worked what. */
const props = defineProps<{ exercises: Schemas['PracticeExercise'][]; sets: Schemas['ServerPracticeSetView'][] }>()
const emit = defineEmits<{ changed: [] }>()
const form = reactive({ exercise: props.exercises[0]!.id as string, due: '', people: [] as string[] })
const accounts = useAsked(() => ask(api.GET('/api/accounts')))
const { value: rows, problem, act } = useAsked(() => ask(api.GET('/api/practice/results')))
const done = ref(false)
async function set() {
  const body = { exercise: form.exercise as never, due_on: form.due, people: form.people }
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
      </select>
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
      <button type="button" class="tap" @click="drop(s.id)">{{ t('practice.take_back') }}</button>
    </p>
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
