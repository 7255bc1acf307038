<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import TopBar from '@/components/TopBar.vue'
import { momentText } from '@/lib/when'
import { has, t } from '@/lib/words'

/** Who did what in the shop, the newest first; for the lead. */
const lines = ref<Schemas['StoreAudit'][]>([])
const more = ref(false)
const action = ref('')
const problem = ref<Problem | null>(null)
const actions = ['sign_in', 'sign_in_failed', 'edit_intake', 'edit_choices', 'release', 'reopen', 'bring_in', 'export']
async function load(on: boolean) {
  problem.value = null
  const before = on ? lines.value.at(-1)?.seq : undefined
  try {
    const v = await ask(api.GET('/api/audit', { params: { query: { before, action: action.value || undefined } } }))
    lines.value = on ? [...lines.value, ...v.lines] : v.lines
    more.value = v.more
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    problem.value = e.problem
  }
}
function pick(a: string | null) {
  action.value = a ?? ''
  void load(false)
}
const name = (a: string) => (has('audit.' + a) ? t('audit.' + a) : a)
onMounted(() => load(false))
</script>

<template>
  <TopBar />
  <main class="audit">
    <h1>{{ t('ui.audit') }}</h1>
    <p class="small">{{ t('ui.audit_note') }}</p>
    <Choice
      :value="action"
      :label="t('ui.audit_filter')"
      :options="actions.map((id) => ({ id, label: name(id) }))"
      clearable
      testid="audit-action"
      @pick="pick"
    />
    <Faults v-if="problem" :problem="problem" />
    <div class="field scroll">
      <table data-testid="audit">
        <thead>
          <tr>
            <th scope="col">{{ t('audit.when') }}</th>
            <th scope="col">{{ t('audit.who') }}</th>
            <th scope="col">{{ t('audit.what') }}</th>
            <th scope="col">{{ t('audit.job') }}</th>
            <th scope="col">{{ t('audit.from') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in lines" :key="l.seq">
            <td class="fig">{{ momentText(l.at) }}</td>
            <td>
              {{ l.user_name || '–' }} <span v-if="l.role" class="small">{{ t('role.' + l.role) }}</span>
            </td>
            <td>
              {{ name(l.action) }} <span v-if="l.detail" class="small detail">{{ l.detail }}</span>
            </td>
            <td>
              <RouterLink v-if="l.job_id" :to="`/jobs/${l.job_id}/record`">{{ t('audit.open') }}</RouterLink>
            </td>
            <td class="fig small">{{ l.address }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <button v-if="more" class="tap" data-testid="audit-more" @click="load(true)">{{ t('ui.more') }}</button>
  </main>
</template>

<style scoped>
.audit {
  padding: 18px 20px 80px;
  max-width: 1280px;
  margin: 0 auto;
  display: grid;
  gap: 12px;
}
.scroll {
  overflow-x: auto;
}
.detail {
  overflow-wrap: anywhere;
}
</style>
