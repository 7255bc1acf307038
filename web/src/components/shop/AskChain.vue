<script setup lang="ts">
import { ref } from 'vue'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import { dayText } from '@/lib/when'
import { has, t } from '@/lib/words'

/** What the chain's other shops did to this vehicle: asked with its owner's consent, and both shops' audit tells of it. */
const props = defineProps<{ id: string }>()
const consent = ref(false)
const told = ref<Schemas['ServerAskOut'] | null>(null)
const problem = ref<Problem | null>(null)
async function go() {
  problem.value = null
  try {
    const path = { id: props.id }
    told.value = await ask(api.POST('/api/vehicles/{id}/ask', { params: { path }, body: { consent: consent.value } }))
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    problem.value = e.problem
  }
}
const named = (prefix: string, id: string) => (id && has(prefix + id) ? t(prefix + id) : id)
</script>

<template>
  <section class="field" data-testid="ask-chain">
    <header>
      <h2>{{ t('ui.other_shops') }}</h2>
    </header>
    <div class="row">
      <label class="tap"><input v-model="consent" type="checkbox" data-testid="consent" /> {{ t('ui.consent') }}</label>
      <button type="button" class="tap" :disabled="!consent" data-testid="ask-shops" @click="go">
        {{ t('ui.ask_shops') }}
      </button>
    </div>
    <Faults v-if="problem" :problem="problem" />
    <template v-if="told">
      <p v-if="!told.told.length" role="status">{{ t('ui.shops_know_nothing', { n: told.asked }) }}</p>
      <div v-for="s in told.told" :key="s.shop">
        <h3>{{ s.shop }}</h3>
        <p v-for="j in s.jobs" :key="j.released_at" class="row" data-testid="told-job">
          <span class="fig">{{ dayText(j.released_at) }}</span>
          <span>{{ named('scope.', j.scope) }}</span>
          <span v-if="j.was">{{ named('fault_id.', j.was) }}</span>
          <span v-if="j.unit_number">{{ j.unit_maker }} {{ j.unit_number }}</span>
          <span v-if="j.water_after != null">{{ t('ui.water') }} <Fig name="percent" :value="j.water_after" /></span>
        </p>
      </div>
    </template>
  </section>
</template>
