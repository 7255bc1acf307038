<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import NumPad from './NumPad.vue'
import { bare, convert, convertible, decimalMark, decimalsOf, displayOf, readFigure } from '@/lib/units'
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

/** As it is typed: with the reader's own mark, and no groups. */
const shown = (v: number | null | undefined) => written(v).replace('.', decimalMark())
function written(v: number | null | undefined): string {
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
const read = computed(() => readFigure(text.value))
/** One reading of what was typed, in the core's unit. */
function inCore(v: number | undefined): number | null {
  if (v === undefined || !read.value) return null
  if (!display.value) return read.value.unit ? null : v
  // A unit that is written wins; a fraction is always inches: no one writes 15/16 of a millimetre.
  const fraction = text.value.includes('/') && display.value.us === 'in' ? 'in' : unit.value
  const from = read.value.unit || fraction
  return convertible(from, display.value.core) ? convert(v, from, display.value.core) : null
}
const inRange = (v: number | null) =>
  v != null && v >= (range.value.min ?? v) - 1e-9 && v <= (range.value.max ?? v) + 1e-9
/** What can be read two ways is what the field's bounds let it be; where they let both, it is asked. */
const ways = computed(() => {
  const [first, other] = [inCore(read.value?.value), inCore(read.value?.other)]
  if (first == null || other == null) return [first]
  const fit = [first, other].filter(inRange)
  return fit.length === 1 ? fit : [first, other]
})
const value = computed(() => (ways.value.length === 1 ? ways.value[0]! : null))
const wrong = computed(() => text.value.trim() !== '' && value.value == null)
const twoWays = computed(() => ways.value.length > 1 && [read.value!.value, read.value!.other!].map(bare))
const outside = computed(() => value.value != null && !inRange(value.value))
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
    <span v-else-if="twoWays" class="why">{{ t('ui.two_ways', { a: twoWays[0], b: twoWays[1] }) }}</span>
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
