<script setup lang="ts">
import { ref } from 'vue'
import { api, ask, Refused, type Problem } from '@/api/client'
import Faults from '@/components/Faults.vue'
import { dayText } from '@/lib/when'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The shop's own patterns, to be given up again: jobs opened on one keep their figures. */
const session = useSession()
const problem = ref<Problem | null>(null)
async function drop(id: string) {
  problem.value = null
  try {
    const said = await ask(api.DELETE('/api/own-patterns/{id}', { params: { path: { id } } }))
    if (session.vocabulary) session.vocabulary.own_patterns = said.own_patterns
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem : { code: 'problem.server' }
  }
}
</script>

<template>
  <section v-if="session.vocabulary?.own_patterns.length" class="field">
    <header>
      <h2>{{ t('ui.own_patterns') }}</h2>
    </header>
    <Faults v-if="problem" :problem="problem" />
    <p v-for="p in session.vocabulary.own_patterns" :key="p.id" class="row">
      <span
        ><strong>{{ p.name }}</strong> · {{ t('pattern.' + p.pattern) }} · {{ p.by }}, {{ dayText(p.at) }}</span
      >
      <button type="button" class="tap" @click="drop(p.id)">{{ t('ui.give_up') }}</button>
    </p>
  </section>
</template>
