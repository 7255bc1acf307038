<script setup lang="ts">
import type { Problem } from '@/api/client'
import { placeName } from '@/lib/path'
import { has, say, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** A refusal with everything that is wrong, each fault naming its field. */
defineProps<{ problem: Problem }>()

const job = useJob()
const session = useSession()
</script>

<template>
  <div class="problem" role="alert" data-testid="problem">
    <strong>{{ t(problem.code, { detail: problem.detail ?? '' }) }}</strong>
    <ul v-if="problem.faults?.length || problem.missing?.length">
      <li v-for="(f, i) in problem.faults ?? []" :key="i">
        <strong>{{ placeName(f.path, job.system?.wheels) }}</strong> {{ say(f.code, f.with ?? {}, session.pref) }}
      </li>
      <li v-for="m in problem.missing ?? []" :key="m">{{ has('step.' + m) ? t('step.' + m) : t('finding.' + m) }}</li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  margin: 6px 0 0;
  padding-left: 20px;
}
</style>
