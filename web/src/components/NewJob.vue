<script setup lang="ts">
import { NInput } from 'naive-ui'
import { reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, Refused, type Problem } from '@/api/client'
import Faults from './Faults.vue'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

defineEmits<{ close: [] }>()
const session = useSession()
const router = useRouter()
const problem = ref<Problem | null>(null)
const form = reactive({ vehicle: '', plate: '', customer: '', complaint: '', pattern: 'pickup-front-rear-vacuum' })
async function open() {
  problem.value = null
  try {
    const job = await ask(api.POST('/api/jobs', { body: form }))
    await router.push(`/jobs/${job.id}/intake`)
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem : { code: 'problem.server' }
  }
}
</script>

<template>
  <form class="field" @submit.prevent="open">
    <header>
      <h2>{{ t('ui.new_job') }}</h2>
    </header>
    <Faults v-if="problem" :problem="problem" />
    <div class="cols">
      <label
        ><span class="small">{{ t('ui.vehicle') }}</span
        ><NInput v-model:value="form.vehicle" placeholder="" data-testid="new-vehicle"
      /></label>
      <label
        ><span class="small">{{ t('ui.plate') }}</span
        ><NInput v-model:value="form.plate" placeholder=""
      /></label>
      <label
        ><span class="small">{{ t('ui.customer') }}</span
        ><NInput v-model:value="form.customer" placeholder=""
      /></label>
    </div>
    <label class="wide"
      ><span class="small">{{ t('ui.complaint') }}</span
      ><NInput v-model:value="form.complaint" placeholder="" data-testid="new-complaint"
    /></label>
    <fieldset>
      <legend class="small">{{ t('ui.pattern') }}</legend>
      <div class="row">
        <button
          v-for="p in session.vocabulary?.patterns ?? []"
          :key="p.id"
          type="button"
          class="tap"
          :aria-pressed="form.pattern === p.id"
          :data-testid="'pattern-' + p.id"
          @click="form.pattern = p.id"
        >
          {{ t('pattern.' + p.id) }}
        </button>
      </div>
    </fieldset>
    <div class="row">
      <button class="tap main" data-testid="open-job" :disabled="!form.vehicle.trim()">{{ t('ui.open_job') }}</button>
      <button type="button" class="tap" @click="$emit('close')">{{ t('ui.close') }}</button>
    </div>
  </form>
</template>

<style scoped>
fieldset {
  border: 0;
  padding: 0;
  margin: 12px 0;
}
.wide {
  display: block;
  margin-top: 12px;
}
</style>
