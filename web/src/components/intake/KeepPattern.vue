<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import { api, ask, Refused, type Problem } from '@/api/client'
import Faults from '@/components/Faults.vue'
import FoldAway from '@/components/FoldAway.vue'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** Keeps this vehicle's brakes, as they were measured, as a pattern of the shop's own. */
const props = defineProps<{ id: string }>()
const session = useSession()
const name = ref('')
const kept = ref('')
const problem = ref<Problem | null>(null)
async function keep() {
  problem.value = null
  try {
    const body = { name: name.value }
    const said = await ask(api.POST('/api/jobs/{id}/pattern', { params: { path: { id: props.id } }, body }))
    if (session.vocabulary) session.vocabulary.own_patterns = said.own_patterns
    kept.value = name.value
    name.value = ''
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem : { code: 'problem.server' }
  }
}
</script>

<template>
  <FoldAway :title="t('ui.keep_pattern')" data-testid="keep-pattern">
    <p class="small">{{ t('ui.keep_pattern_note') }}</p>
    <form class="row" @submit.prevent="keep">
      <label
        ><span class="small">{{ t('ui.pattern_name') }}</span
        ><NInput v-model:value="name" placeholder="" data-testid="pattern-name"
      /></label>
      <button class="tap" data-testid="pattern-keep" :disabled="!name.trim()">{{ t('ui.store') }}</button>
    </form>
    <p v-if="kept" role="status">{{ t('ui.pattern_kept', { name: kept }) }}</p>
    <Faults v-if="problem" :problem="problem" />
  </FoldAway>
</template>
