<script setup lang="ts">
import { NInput } from 'naive-ui'
import { useLocalStorage } from '@vueuse/core'
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { Refused, type Problem } from '@/api/client'
import PatternPick from './PatternPick.vue'
import DateField from './DateField.vue'
import Faults from './Faults.vue'
import { openJob } from '@/lib/opening'
import { useSession } from '@/stores/session'
import { t } from '@/lib/words'

defineEmits<{ close: [] }>()
defineExpose({ practise })
const router = useRouter()
const first = ref<InstanceType<typeof NInput> | null>(null)
onMounted(() => first.value?.focus())
const problem = ref<Problem | null>(null)
const blank = {
  vehicle: '',
  plate: '',
  customer: '',
  complaint: '',
  pattern: 'pickup-front-rear-vacuum',
  practice: false,
  for_day: '',
  have_ready: '',
  own: '',
}
/** What is half typed outlives a reload, for this person. */
const form = useLocalStorage(`geminate.new_job.${useSession().user?.id ?? ''}`, { ...blank })
/** A made-up vehicle to learn by: it counts for nothing in the shop. The bay for it is the server's; without it, a plain one is opened. */
function practise() {
  if (navigator.onLine) return void router.push('/practice')
  Object.assign(form.value, {
    vehicle: t('ui.practice_vehicle'),
    complaint: t('ui.practice_complaint'),
    customer: '',
    plate: '',
    pattern: 'pickup-front-rear-vacuum',
    practice: true,
    own: '',
    for_day: '',
    have_ready: '',
  })
  void open()
}
async function open(at: 'intake' | 'diagnose' = 'intake') {
  problem.value = null
  try {
    const { own, ...job } = form.value
    const kept = useSession().vocabulary?.own_patterns.find((p) => p.id === own)
    const { id } = await openJob({ ...job, ...(kept ? { pattern: kept.pattern, system: kept.system! } : {}) })
    form.value = { ...blank }
    await router.push(`/jobs/${id}/${at}`)
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem : { code: 'problem.server' }
  }
}
</script>

<template>
  <form class="field" @submit.prevent="open()">
    <header>
      <h2>{{ t('ui.new_job') }}</h2>
    </header>
    <Faults v-if="problem" :problem="problem" />
    <div class="cols">
      <label
        ><span class="small">{{ t('ui.vehicle') }}</span
        ><NInput ref="first" v-model:value="form.vehicle" placeholder="" data-testid="new-vehicle"
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
    <details :open="!!form.for_day">
      <summary data-testid="new-for-day">{{ t('ui.for_day') }}</summary>
      <div class="cols">
        <DateField v-model="form.for_day" :label="t('ui.for_day')" testid="for-day" />
        <label
          ><span class="small">{{ t('ui.have_ready') }}</span
          ><NInput v-model:value="form.have_ready" placeholder="" data-testid="have-ready"
        /></label>
      </div>
    </details>
    <fieldset>
      <legend class="small">{{ t('ui.pattern') }}</legend>
      <PatternPick
        :value="form.pattern"
        :own="form.own"
        @pick="(pattern, own) => Object.assign(form, { pattern, own: own?.id ?? '' })"
      />
    </fieldset>
    <div class="row foot">
      <button class="tap main" data-testid="open-job" :disabled="!form.vehicle.trim()">{{ t('ui.open_job') }}</button>
      <button
        type="button"
        class="tap"
        data-testid="open-diagnose"
        :disabled="!form.vehicle.trim() || !form.complaint.trim()"
        @click="open('diagnose')"
      >
        {{ t('ui.open_diagnose') }}
      </button>
      <button type="button" class="tap" data-testid="practise" @click="practise">{{ t('ui.practice') }}</button>
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
summary {
  min-height: 48px;
  display: flex;
  align-items: center;
  cursor: pointer;
}
/* The button is in reach without a way down through the pictures. */
.foot {
  position: sticky;
  bottom: 0;
  padding: 8px 0;
  background: var(--sheet);
}
.wide {
  display: block;
  margin-top: 12px;
}
</style>
