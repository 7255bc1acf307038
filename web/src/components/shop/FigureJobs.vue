<script setup lang="ts">
import { RouterLink } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import { useAsked } from '@/lib/asked'
import { dayText } from '@/lib/when'
import { t } from '@/lib/words'

/** The jobs one figure rests on, the last first; opened from the figure. */
export interface Opened {
  title: string
  kind: Schemas['JobTallyKind']
  of?: string
  value?: string
  /** Of one month alone, 2026-11. */
  month?: string
}
const props = defineProps<{ opened: Opened; days: number }>()
const emit = defineEmits<{ close: [] }>()
const { value: jobs, problem } = useAsked(() => {
  const { kind, of, value, month } = props.opened
  return ask(api.GET('/api/statistics/jobs', { params: { query: { days: props.days, kind, of, value, month } } }))
})
</script>

<template>
  <section class="field" data-testid="figure-jobs" :aria-label="opened.title">
    <header class="row spread">
      <h2>{{ opened.title }}</h2>
      <button type="button" class="tap bare" data-testid="figure-close" @click="emit('close')">
        {{ t('ui.close') }}
      </button>
    </header>
    <Faults v-if="problem" :problem="problem" />
    <p v-if="jobs && !jobs.length" class="small">{{ t('ui.no_such_jobs') }}</p>
    <ul v-if="jobs" class="jobs">
      <li v-for="j in jobs" :key="j.id">
        <RouterLink :to="`/jobs/${j.id}/record`" class="tap wide" data-testid="figure-job">
          <span class="fig">{{ dayText(j.updated_at) }}</span>
          <strong>{{ j.plate }}</strong>
          <span>{{ j.vehicle }}: {{ j.complaint }}</span>
        </RouterLink>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.jobs {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 6px;
  max-height: 420px;
  overflow: auto;
}
.wide {
  width: 100%;
  justify-content: flex-start;
  gap: 4px 14px;
  flex-wrap: wrap;
}
</style>
