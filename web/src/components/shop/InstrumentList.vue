<script setup lang="ts">
import { NInput } from 'naive-ui'
import { reactive, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import DateField from '@/components/DateField.vue'
import Faults from '@/components/Faults.vue'
import FoldAway from '@/components/FoldAway.vue'
import InstrumentHow from './InstrumentHow.vue'
import InstrumentTest from './InstrumentTest.vue'
import { useAsked } from '@/lib/asked'
import { t } from '@/lib/words'

/** The shop's instruments, for the lead: add one (its secret is shown once), see what became of what it told, take it away. */
const { value: list, problem, act, load } = useAsked(() => ask(api.GET('/api/instruments')))
const kinds = [
  'force',
  'travel',
  'pressure_a',
  'pressure_b',
  'vacuum',
  'water',
  'torque',
  'scale',
  'thermometer',
  'voltmeter',
  'foot_switch',
  'scan_tool',
] as const
const form = reactive({ kind: 'force' as string, name: '', until: '', by: '' })
const fresh = ref<Schemas['ServerInstrumentNew'] | null>(null)
async function add() {
  const body = { kind: form.kind as never, name: form.name, holds_until: form.until, calibrated_by: form.by }
  fresh.value = (await act(() => ask(api.POST('/api/instruments', { body })))) ?? null
  if (fresh.value) form.name = ''
}
const drop = (id: string) => act(() => ask(api.DELETE('/api/instruments/{id}', { params: { path: { id } } })))
</script>

<template>
  <section class="field" data-testid="instrument-list">
    <header>
      <h2>{{ t('instrument.title') }}</h2>
      <span class="small">{{ t('instrument.note') }}</span>
    </header>
    <Faults v-if="problem" :problem="problem" />
    <FoldAway testid="instrument-how" :title="t('instrument.how')"><InstrumentHow /></FoldAway>
    <p v-for="i in list ?? []" :key="i.id" class="row">
      <strong>{{ i.name }}</strong> <span class="small">{{ t('instrument.' + i.kind) }}</span>
      <InstrumentTest :instrument="i" @ask="load" />
      <span v-if="i.problem" class="small bad">{{ t('instrument.problem.' + i.problem) }}</span>
      <span v-if="i.out_of_date" class="small bad">{{ t('instrument.out_of_date') }}</span>
      <button type="button" class="tap" :aria-label="t('instrument.drop_of', { name: i.name })" @click="drop(i.id)">
        {{ t('ui.remove') }}
      </button>
    </p>
    <div class="row">
      <select v-model="form.kind" class="tap" :aria-label="t('instrument.kind')">
        <option v-for="k in kinds" :key="k" :value="k">{{ t('instrument.' + k) }}</option>
      </select>
      <label
        ><span class="small">{{ t('ui.name') }}</span
        ><NInput v-model:value="form.name" placeholder="" data-testid="instrument-name"
      /></label>
      <DateField v-model="form.until" :label="t('instrument.until')" />
      <label
        ><span class="small">{{ t('instrument.by') }}</span
        ><NInput v-model:value="form.by" placeholder=""
      /></label>
      <button type="button" class="tap" :disabled="!form.name.trim()" data-testid="instrument-add" @click="add">
        {{ t('instrument.add') }}
      </button>
    </div>
    <div v-if="fresh" class="caution" role="status" data-testid="instrument-secret">
      {{ t('instrument.once') }}
      <p class="fig">{{ fresh.id }}<br />{{ fresh.secret }}<br />{{ fresh.topic }}</p>
      <img :src="'data:image/svg+xml;utf8,' + encodeURIComponent(fresh.code)" width="180" :alt="t('instrument.code')" />
    </div>
  </section>
</template>

<style scoped>
.bad {
  color: var(--bad);
}
</style>
