<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import NumPad from './NumPad.vue'
import { convert, convertible, decimalsOf, displayOf, readFigure } from '@/lib/units'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** A figure to type: units attached and changeable, range drawn beside it, a pad for gloves. */
const props = defineProps<{
  modelValue: number | null | undefined
  name: string
  label?: string
  /** What it is of, where no label stands at it. */
  of?: string
  min?: number
  max?: number
  /** The field as the core names it, where its bounds are the core's. */
  bound?: string
  testid?: string
  fault?: string
  /** Where the figure comes from, or what it is. */
  note?: string
  unitless?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [number | null] }>()
const session = useSession()
const display = computed(() => (props.unitless ? null : displayOf(props.name)))
const us = ref(session.pref === 'us')
const unit = computed(() => (display.value ? (us.value ? display.value.us : display.value.metric) : ''))
const pad = ref(false)
const said = computed(() => props.label || props.of || props.name)
const range = computed(() => {
  const core = props.bound ? session.vocabulary?.bounds?.[props.bound] : undefined
  return { min: core?.min ?? props.min, max: core?.max ?? props.max }
})
const text = ref('')
const typing = ref(false)

function shown(v: number | null | undefined): string {
  if (v == null) return ''
  if (!display.value) return String(Math.round(v * 1e6) / 1e6)
  const x = convert(v, display.value.core, unit.value)
  // As many digits as it takes to say the figure, no more.
  for (let d = decimalsOf(unit.value); d < 5; d++)
    if (Math.abs(Number(x.toFixed(d)) - x) < 1e-6 * Math.max(1, Math.abs(x))) return x.toFixed(d)
  return String(Number(x.toFixed(4)))
}
watch(
  () => [props.modelValue, unit.value],
  () => {
    if (!typing.value) text.value = shown(props.modelValue)
  },
  { immediate: true },
)
const value = computed(() => {
  const read = readFigure(text.value)
  if (!read) return null
  if (!display.value) return read.unit ? null : read.value
  // A unit that is written wins; a fraction is always inches: no one writes 15/16 of a millimetre.
  const fraction = text.value.includes('/') && display.value.us === 'in' ? 'in' : unit.value
  return convertible(read.unit || fraction, display.value.core)
    ? convert(read.value, read.unit || fraction, display.value.core)
    : null
})
const wrong = computed(() => text.value.trim() !== '' && value.value == null)
const outside = computed(
  () =>
    value.value != null &&
    ((range.value.min != null && value.value < range.value.min - 1e-9) ||
      (range.value.max != null && value.value > range.value.max + 1e-9)),
)
const at = computed(() => {
  const { min, max } = range.value
  if (min == null || max == null || value.value == null) return null
  return Math.max(0, Math.min(100, ((value.value - min) / (max - min)) * 100))
})
function type(v: string) {
  typing.value = true
  text.value = v
  if (!wrong.value) emit('update:modelValue', value.value)
}
function leave() {
  typing.value = false
  if (!wrong.value) text.value = shown(props.modelValue)
}
</script>

<template>
  <div class="num" :class="{ bad: wrong || outside || fault }">
    <label>
      <span v-if="label" class="small">{{ label }}</span>
      <span class="line">
        <NInput
          :value="text"
          inputmode="decimal"
          placeholder=""
          class="fig"
          :data-testid="testid"
          :input-props="{ 'aria-label': said, 'aria-invalid': wrong || outside || !!fault }"
          @update:value="type"
          @blur="leave"
        />
        <button
          v-if="display"
          type="button"
          class="tap unit"
          :aria-label="`${unit}, ${t('ui.change_unit')}: ${said}`"
          @click="us = !us"
        >
          {{ unit }}
        </button>
        <button type="button" class="tap unit" :aria-label="`${t('ui.pad')}: ${said}`" @click="pad = true">
          <svg viewBox="0 0 18 18" width="18" height="18" aria-hidden="true">
            <path d="M2 2h4v4H2zM7 2h4v4H7zM12 2h4v4h-4zM2 7h4v4H2zM7 7h4v4H7zM12 7h4v4h-4zM7 12h4v4H7z" />
          </svg>
        </button>
      </span>
    </label>
    <span v-if="range.min != null && range.max != null" class="range" aria-hidden="true"
      ><i v-if="at != null" :style="{ left: at + '%' }"
    /></span>
    <span v-if="fault" class="why">{{ fault }}</span>
    <span v-else-if="wrong" class="why">{{ t('ui.not_a_figure') }}</span>
    <span v-else-if="outside" class="why">{{
      t('ui.outside', { min: shown(range.min), max: shown(range.max), unit })
    }}</span>
    <span v-else-if="note" class="note">{{ note }}</span>
    <NumPad v-if="pad" :title="label ?? ''" :unit="unit" :start="text" @close="pad = false" @done="type" />
  </div>
</template>

<style scoped>
.num {
  display: block;
}
.line {
  display: flex;
}
.unit {
  border-left: 0;
  min-width: 48px;
  padding: 4px 8px;
  font-size: 15px;
  white-space: nowrap;
}
.unit svg {
  fill: currentColor;
}
.range {
  display: block;
  position: relative;
  height: 5px;
  border-bottom: 1.5px solid var(--rule);
  border-left: 1.5px solid var(--rule);
  border-right: 1.5px solid var(--rule);
  margin: 2px 2px 0;
}
.range i {
  position: absolute;
  width: 4px;
  height: 10px;
  margin-left: -2px;
  top: -3px;
  background: var(--a);
}
.bad .range i {
  background: var(--bad);
}
.note {
  display: block;
  font-size: 14px;
  color: var(--ink-2);
}
.why {
  display: block;
  color: var(--bad);
  font-size: 15px;
}
</style>
