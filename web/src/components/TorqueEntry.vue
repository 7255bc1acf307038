<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, ask, Refused } from '@/api/client'
import { answer } from '@/core/answer'
import Choice from './Choice.vue'
import { parseFigure, convert } from '@/lib/units'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { NInput } from 'naive-ui'

/** A torque as the wrench was set, in the wrench's own unit, guarded against a figure off by twelve. */
const props = defineProps<{ low: number; high: number; id: string }>()
const emit = defineEmits<{ tick: [number | undefined] }>()
const store = useJob()
const text = ref('')
const unit = ref('N·m')
const nm = computed(() => {
  const v = parseFigure(text.value)
  return v == null || v <= 0 ? null : convert(v, unit.value, 'N·m')
})
const range = (u: string) => {
  const d = u === 'in·lbf' ? 0 : 1
  return `${convert(props.low, 'N·m', u).toFixed(d)}–${convert(props.high, 'N·m', u).toFixed(d)} ${u}`
}
// The core judges; until it has answered the joint cannot be ticked with this figure.
const verdict = ref<string | null>(null)
const judge = useDebounceFn(async () => {
  const torque_nm = nm.value
  if (torque_nm == null) return
  try {
    const params = { path: { id: store.job!.id } }
    const body = { step: props.id, torque_nm }
    const r = await answer(store.job!.id, 'torque', body, () =>
      ask(api.POST('/api/jobs/{id}/torque', { params, body })),
    )
    if (nm.value === torque_nm) verdict.value = r.verdict
  } catch (e) {
    if (!(e instanceof Refused)) throw e
  }
}, 120)
watch(nm, () => {
  verdict.value = null
  void judge()
})
</script>

<template>
  <div class="torque">
    <p class="small fig">
      {{ ['N·m', 'ft·lbf', 'in·lbf'].map(range).join('  ·  ') }} <span>{{ t('ui.maker_first') }}</span>
    </p>
    <div class="row">
      <NInput
        v-model:value="text"
        inputmode="decimal"
        class="in fig"
        placeholder=""
        :input-props="{ 'aria-label': t('ui.torque') }"
        :data-testid="'torque-' + id"
      />
      <Choice
        :value="unit"
        :options="['N·m', 'ft·lbf', 'in·lbf'].map((u) => ({ id: u, label: u }))"
        :testid="'torque-unit-' + id"
        @pick="(v) => v && (unit = v)"
      />
      <button
        type="button"
        class="tap"
        :class="{ main: verdict === 'ok' }"
        :disabled="nm == null || !verdict || verdict === 'twelve_high' || verdict === 'twelve_low'"
        :data-testid="'torque-tick-' + id"
        @click="emit('tick', nm ?? undefined)"
      >
        {{ t('ui.torqued') }}
      </button>
    </div>
    <p v-if="verdict && verdict !== 'ok'" class="problem" role="alert" data-testid="torque-verdict">
      {{ t('torque.' + verdict) }}
    </p>
  </div>
</template>

<style scoped>
.torque {
  display: grid;
  gap: 6px;
}
.in {
  width: 110px;
}
</style>
