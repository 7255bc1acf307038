<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import AirLeft from '@/components/AirLeft.vue'
import Choice from '@/components/Choice.vue'
import PedalPlot from '@/components/PedalPlot.vue'
import TraceTake from '@/components/instruments/TraceTake.vue'
import Readings from '@/components/diagnose/Readings.vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Force and travel against the twin's band, with what they say of the air; read with a gauge or a bathroom scale. */
interface Pair {
  pedal_force_n: number
  travel_mm: number
  by?: string
}
const props = defineProps<{ view: Schemas['JobVerifyView']; readings: unknown; baseline: unknown }>()
const emit = defineEmits<{ find: [string, unknown] }>()
const store = useJob()
const pairs = computed(() => (props.readings as Pair[] | undefined) ?? [])
const by = computed(() => (pairs.value.length && pairs.value.every((r) => r.by === 'scale') ? 'scale' : 'gauge'))
const marked = (list: Pair[], with_: string) =>
  list.map((r) => ({
    pedal_force_n: r.pedal_force_n,
    travel_mm: r.travel_mm,
    ...(with_ === 'scale' ? { by: 'scale' } : {}),
  }))
const put = (list: Pair[], with_ = by.value) => emit('find', 'pedal.readings', list.length ? marked(list, with_) : null)
</script>

<template>
  <h3>{{ t('test.force_travel') }}</h3>
  <TraceTake phase="verify" finding="pedal.readings" />
  <Readings :pairs="pairs" @change="(v) => put(v as Pair[])" />
  <Choice
    v-if="pairs.length"
    :label="t('ui.force_by')"
    :value="by"
    :options="['gauge', 'scale'].map((v) => ({ id: v, label: t('force_by.' + v) }))"
    testid="force-by"
    @pick="(v) => v && put(pairs, v)"
  />
  <PedalPlot
    class="narrow"
    :traces="[
      {
        label: t('ui.twin_off'),
        style: 'thin',
        points: view.expected.map((e) => ({ x: e.pedal_force_n, y: e.travel_mm })),
      },
    ]"
    :band="view.expected.map((e) => ({ x: e.pedal_force_n, low: e.low_mm, high: e.high_mm }))"
    :marks="pairs.map((r) => ({ x: r.pedal_force_n, y: r.travel_mm }))"
    :floor="store.system?.pedal?.floor_mm"
  />
  <AirLeft v-if="view.air" :air="view.air" />
  <Choice
    v-if="pairs.length"
    :value="baseline as string"
    :label="t('finding.pedal.baseline')"
    :options="['no', 'yes'].map((v) => ({ id: v, label: t('value.' + v) }))"
    clearable
    testid="baseline"
    @pick="(v) => emit('find', 'pedal.baseline', v)"
  />
  <p class="small">{{ t('caution.twin') }}</p>
</template>

<style scoped>
/* On a wide screen it stands beside the work. */
@media (min-width: 1001px) {
  .narrow {
    display: none;
  }
}
</style>
