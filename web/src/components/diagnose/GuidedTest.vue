<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { answer } from '@/core/answer'
import Fig from '@/components/Fig.vue'
import NumField from '@/components/NumField.vue'
import TestClock from '@/components/diagnose/TestClock.vue'
import { useKept } from '@/lib/kept'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** One test as a small instrument: how it is done, its clock, its figures and what they come to while they are typed. */
const props = defineProps<{ test: Schemas['ServerTestKind'] }>()
const emit = defineEmits<{ found: [{ id: string; value: unknown }[]] }>()
const job = useJob()
// Half-typed figures are kept by test: leaving the station or a reload loses none.
const all = useKept<Record<string, Record<string, number | null>>>('measured', {})
const values = computed(() => all.value[props.test.id] ?? {})
function put(id: string, v: number | null) {
  all.value = { ...all.value, [props.test.id]: { ...values.value, [id]: v } }
}
const out = ref<Schemas['DiagnoseMeasured'] | null>(null)
watch(
  () => props.test.id,
  () => {
    out.value = null
  },
)
interface Shown {
  id: string
  label: string
  quantity: string
  min: number
  max: number
}
const inputs = computed<Shown[]>(() =>
  props.test.inputs.flatMap((i) =>
    i.circuit
      ? (job.system?.circuits ?? []).map((c) => ({
          ...i,
          id: `${i.id}:${c.id}`,
          label: t('input.' + i.id, { at: c.id }),
        }))
      : [{ ...i, label: t('input.' + i.id) }],
  ),
)
const counted = computed(() => (props.test.counts ? props.test.inputs[0]?.id : undefined))
const unit: Record<string, string> = { n: 'n', mm: 'mm', kpa: 'kpa', mpa: 'mpa' }
const given = computed(
  () => Object.fromEntries(Object.entries(values.value).filter(([, v]) => v != null)) as Record<string, number>,
)
watchDebounced(
  given,
  async (v) => {
    if (!job.job || !Object.keys(v).length) return
    try {
      const body = { test: props.test.id, values: v }
      const params = { path: { id: job.job.id } }
      out.value = await answer(job.job.id, 'measure', body, () =>
        ask(api.POST('/api/jobs/{id}/measure', { params, body })),
      )
    } catch (e) {
      if (!(e instanceof Refused)) throw e
      out.value = null // a figure is still to come, or is beyond what can be
    }
  },
  { debounce: 150, deep: true, immediate: true },
)
const figureName: Record<string, string> = { celsius: 'c', mm: 'mm', kpa: 'kpa', mpa: 'mpa', n: 'n' }
function shownFigure(f: Schemas['DiagnoseFigure']): string {
  if (f.quantity === 'share') return `${Math.round(100 * f.value)} %`
  return f.quantity === 's' ? `${f.value.toFixed(0)} s` : String(Math.round(f.value))
}
const at = (id: string) => ({ key: id.split(':')[0], params: { at: id.split(':')[1] ?? '' } })
function found() {
  emit(
    'found',
    (out.value?.findings ?? []).map((f) => ({ id: f.id, value: f.value as unknown })),
  )
  delete all.value[props.test.id]
}
</script>

<template>
  <div class="guided" data-testid="guided">
    <ol class="steps">
      <li v-for="s in test.steps" :key="s">{{ t('guide.' + s) }}</li>
    </ol>
    <p v-for="c in test.cautions" :key="c" class="caution">{{ t('guide_caution.' + c) }}</p>
    <TestClock
      v-if="test.timer_s && test.id !== 'hold'"
      :test="test.id"
      :seconds="test.timer_s"
      @read="(s) => test.clock_for && put(test.clock_for, s)"
    />
    <div v-if="counted" class="row">
      <button
        type="button"
        class="tap count"
        data-testid="test-count"
        @click="put(counted, (values[counted] ?? 0) + 1)"
      >
        <span class="fig big">{{ values[counted] ?? 0 }}</span> {{ t('ui.count_tap') }}
      </button>
      <button type="button" class="tap" @click="put(counted, 0)">{{ t('ui.start_over') }}</button>
    </div>
    <div v-else-if="inputs.length" class="cols">
      <NumField
        v-for="i in inputs"
        :key="i.id"
        :model-value="values[i.id]"
        :name="unit[i.quantity] ?? i.quantity"
        :unitless="!unit[i.quantity]"
        :label="i.label"
        :min="i.min"
        :max="i.max"
        :testid="'input-' + i.id"
        @update:model-value="(v) => put(i.id, v ?? null)"
      />
    </div>
    <template v-if="out">
      <table v-if="out.figures.length" data-testid="figures">
        <caption class="small">
          {{
            t('ui.computed')
          }}
        </caption>
        <tbody>
          <tr v-for="f in out.figures" :key="f.id">
            <th scope="row">{{ t('figure.' + at(f.id).key, at(f.id).params) }}</th>
            <td>
              <Fig v-if="figureName[f.quantity]" :name="figureName[f.quantity]!" :value="f.value" />
              <span v-else class="fig">{{ shownFigure(f) }}</span>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-for="n in out.notes" :key="n" class="note" data-testid="measure-note">
        {{ t('measure_note.' + at(n).key, at(n).params) }}
      </p>
    </template>
    <button
      v-if="inputs.length"
      type="button"
      class="tap main"
      :disabled="!out?.findings.length"
      data-testid="measure-store"
      @click="found"
    >
      {{ t('ui.measure_store') }}
    </button>
  </div>
</template>

<style scoped>
.guided {
  display: grid;
  gap: 12px;
  padding-bottom: 12px;
}
.steps {
  margin: 0;
  padding-left: 26px;
  font-size: 18px;
  line-height: 1.5;
}
.caution {
  margin: 0;
}
.big {
  font-size: 34px;
  font-weight: 600;
  min-width: 44px;
}
.count {
  min-height: 84px;
  min-width: 220px;
}
caption,
th {
  text-align: left;
  font-weight: 400;
}
td {
  text-align: right;
}
.note {
  font-weight: 600;
}
.main {
  justify-self: start;
}
</style>
