<script setup lang="ts">
import { computed } from 'vue'
import NumField from './NumField.vue'
import { rememberPhone } from '@/lib/figures'
import { useKept } from '@/lib/kept'
import { t } from '@/lib/words'
import ByPhone from '@/pocket/ByPhone.vue'

/** The ways that need a rule alone: the pump test by three heights, and the travel at a firm foot. */
const props = defineProps<{ show: 'pump' | 'firm'; pump: unknown; firm: unknown }>()
const emit = defineEmits<{ pump: [unknown]; firm: [number] }>()
interface Heights {
  first_mm: number | null
  second_mm: number | null
  fourth_mm: number | null
}
const last = props.pump as Heights | undefined
const typed = useKept<Heights & { firm: number | null }>('by_hand', {
  first_mm: last?.first_mm ?? null,
  second_mm: last?.second_mm ?? null,
  fourth_mm: last?.fourth_mm ?? null,
  firm: (props.firm as number | undefined) ?? null,
})
const put = (k: string, v: number | null | undefined) => (typed.value = { ...typed.value, [k]: v ?? null })
const heights = [
  ['first_mm', '1'],
  ['second_mm', '2'],
  ['fourth_mm', '4'],
] as const
const whole = computed(() => heights.every(([k]) => typed.value[k] != null))
function byPhone(mm: number) {
  rememberPhone(mm)
  put('firm', mm)
}
function storePump() {
  const { first_mm, second_mm, fourth_mm } = typed.value
  emit('pump', { first_mm, second_mm, fourth_mm })
}
</script>

<template>
  <div v-if="show === 'pump'" data-testid="by-hand">
    <h3>{{ t('finding.pedal.pump') }}</h3>
    <p class="small">{{ t('ui.pump_how') }}</p>
    <form class="cols" @submit.prevent="whole && storePump()">
      <NumField
        v-for="[k, n] in heights"
        :key="k"
        :model-value="typed[k]"
        name="mm"
        bound="pedal.height_mm"
        :label="t('ui.height_n', { n })"
        :testid="'pump-' + n"
        @update:model-value="(v) => put(k, v)"
      />
      <button
        class="tap main"
        :disabled="!whole"
        data-testid="pump-store"
        :aria-label="t('ui.save_of', { what: t('test.pump') })"
      >
        {{ t('ui.take_reading') }}
      </button>
    </form>
  </div>
  <div v-else data-testid="by-hand-firm">
    <p class="small gap">{{ t('ui.firm_how') }}</p>
    <form class="cols" @submit.prevent="typed.firm != null && emit('firm', typed.firm)">
      <NumField
        :model-value="typed.firm"
        name="mm"
        bound="pedal.height_mm"
        :label="t('ui.firm_travel')"
        testid="firm"
        @update:model-value="(v) => put('firm', v)"
      />
      <button
        class="tap main"
        :disabled="typed.firm == null"
        data-testid="firm-store"
        :aria-label="t('ui.save_of', { what: t('ui.firm_travel') })"
      >
        {{ t('ui.take_reading') }}
      </button>
    </form>
    <ByPhone what="pedal" @take="byPhone" />
  </div>
</template>

<style scoped>
.gap {
  margin-top: 12px;
}
form .main {
  align-self: end;
}
</style>
