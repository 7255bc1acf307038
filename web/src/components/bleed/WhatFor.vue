<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import Choice from '@/components/Choice.vue'
import NumField from '@/components/NumField.vue'
import type { BleedView } from '@/lib/bleeding'
import { useChoices } from '@/lib/choices'
import { t, wheels } from '@/lib/words'
import { useJob } from '@/stores/job'

/** What the bleed is for, at which wheels, in which order, and when a wheel is done. */
defineProps<{ view: BleedView }>()
const store = useJob()
const { choices, set } = useChoices()
type Bleed = typeof choices.value.bleed
const bleed = (change: Partial<Bleed>) => void set({ bleed: { ...choices.value.bleed, ...change } })
const all = computed(() => store.system!.wheels.map((w) => w.id))
const named = computed(() => choices.value.bleed.wheels ?? [])
const toggle = (id: string) =>
  bleed({ wheels: named.value.includes(id) ? named.value.filter((x) => x !== id) : [...named.value, id] })
const given = ref((choices.value.bleed.given ?? []).join(' '))
function order(v: Bleed['order'] | null) {
  if (!v) return
  const list = choices.value.bleed.given.length ? choices.value.bleed.given : all.value
  bleed({ order: v, given: v === 'maker' ? list : choices.value.bleed.given })
  given.value = list.join(' ')
}
const orders = computed((): Bleed['order'][] => [
  'longest',
  'circuit',
  'maker',
  ...(store.isTrailer ? (['farthest_axle'] as const) : []),
  'tool',
])
</script>

<template>
  <Choice
    :value="view.purpose"
    :options="(['exchange', 'air', 'both'] as const).map((v) => ({ id: v, label: t('purpose.' + v) }))"
    testid="purpose"
    @pick="(v) => v && bleed({ purpose: v })"
  />
  <fieldset v-if="view.purpose === 'air'" class="plain gap">
    <legend class="small">{{ t('ui.which_wheels') }}</legend>
    <button
      v-for="id in all"
      :key="id"
      type="button"
      class="tap"
      :aria-pressed="named.includes(id)"
      :data-testid="'opened-' + id"
      @click="toggle(id)"
    >
      {{ wheels(id) }}
    </button>
    <span v-if="!named.length" class="small">{{ t('ui.all_wheels') }}</span>
  </fieldset>
  <Choice
    class="gap"
    :label="t('ui.order')"
    :value="choices.bleed.order"
    :options="orders.map((v) => ({ id: v, label: t('order.' + v) }))"
    testid="order"
    @pick="order"
  />
  <label v-if="choices.bleed.order === 'maker'" class="gap block"
    ><span class="small">{{ t('ui.maker_order') }}</span
    ><NInput v-model:value="given" @change="bleed({ given: given.trim().split(/[\s,]+/) })"
  /></label>
  <div v-if="view.purpose !== 'air'" class="cols gap">
    <NumField
      :model-value="choices.bleed.old_fraction * 100"
      name="percent"
      bound="bleed.old_percent"
      unitless
      :label="t('ui.target_old')"
      @update:model-value="(v) => v && bleed({ old_fraction: v / 100 })"
    />
    <NumField
      :model-value="choices.bleed.water_percent"
      name="percent"
      bound="bleed.water_percent"
      unitless
      :label="t('ui.target_water')"
      @update:model-value="(v) => bleed({ water_percent: v ?? undefined })"
    />
  </div>
  <button
    v-if="store.system?.modulator"
    type="button"
    class="tap gap"
    :aria-pressed="!!choices.bleed.routine"
    data-testid="still-soft"
    @click="bleed({ routine: !choices.bleed.routine })"
  >
    {{ t('ui.still_soft') }}
  </button>
</template>

<style scoped>
.gap {
  margin-top: 12px;
}
.block {
  display: block;
}
.plain {
  border: 0;
  padding: 0;
  margin-left: 0;
  margin-right: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
</style>
