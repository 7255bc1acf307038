<script setup lang="ts">
import { computed, ref } from 'vue'
import Choice from './Choice.vue'
import { parseFigure, convert } from '@/lib/units'
import { t } from '@/lib/words'
import { NInput } from 'naive-ui'

/** A torque as the wrench was set, in the wrench's own unit, guarded against a figure off by twelve. */
const props = defineProps<{ low: number; high: number; id: string }>()
const emit = defineEmits<{ tick: [number | undefined] }>()
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
// The same judgement as the core's (units.JudgeTorque); shown while typing, and made again by the
// server when it is ticked.
const verdict = computed(() => {
  const x = nm.value
  if (x == null) return null
  const fits = (v: number) => v >= props.low * 0.98 && v <= props.high * 1.02
  if (fits(x)) return 'ok'
  if (fits(x / 12)) return 'twelve_high'
  if (fits(x * 12)) return 'twelve_low'
  return x < props.low ? 'low' : 'high'
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
        :disabled="nm == null || verdict === 'twelve_high' || verdict === 'twelve_low'"
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
