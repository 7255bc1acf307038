<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask } from '@/api/client'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import TopBar from '@/components/TopBar.vue'
import { useAsked } from '@/lib/asked'
import { t } from '@/lib/words'
import { dayText } from '@/lib/when'

/** The shop's vehicles, and which are due. */
const text = ref('')
const weeks = ref('8')
const {
  value: found,
  problem,
  load,
} = useAsked(() => ask(api.GET('/api/vehicles', { params: { query: { text: text.value || undefined } } })))
const due = useAsked(() => ask(api.GET('/api/due', { params: { query: { weeks: Number(weeks.value) } } })))
watch(text, () => void load())
watch(weeks, () => void due.load())
</script>

<template>
  <TopBar />
  <main class="page">
    <h1>{{ t('ui.vehicles') }}</h1>
    <Faults v-if="problem" :problem="problem" />
    <div class="two">
      <section class="field">
        <NInput
          v-model:value="text"
          :placeholder="t('ui.find_jobs')"
          :input-props="{ 'aria-label': t('ui.find_jobs') }"
          data-testid="find-vehicle"
        />
        <ul>
          <li v-for="v in found ?? []" :key="v.id">
            <RouterLink class="tap wide" :to="`/vehicles/${v.id}`" data-testid="vehicle"
              ><strong>{{ v.plate || v.vin }}</strong> {{ v.name }}</RouterLink
            >
          </li>
        </ul>
      </section>
      <section class="field" data-testid="due-list">
        <header>
          <h2>{{ t('ui.due_list') }}</h2>
        </header>
        <Choice
          :value="weeks"
          :options="['1', '4', '8', '26', '52'].map((id) => ({ id, label: t('ui.weeks', { n: id }) }))"
          @pick="(v) => v && (weeks = v)"
        />
        <p v-if="due.value.value && !due.value.value.length">{{ t('ui.none_due') }}</p>
        <ul>
          <li v-for="v in due.value.value ?? []" :key="v.id">
            <RouterLink class="tap wide" :to="`/vehicles/${v.id}`"
              ><span class="fig">{{ dayText(v.due_at) }}</span> <strong>{{ v.plate || v.vin }}</strong>
              {{ v.name }}</RouterLink
            >
          </li>
        </ul>
      </section>
    </div>
  </main>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 10px 0 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
.wide {
  width: 100%;
  justify-content: flex-start;
  gap: 10px;
}
</style>
