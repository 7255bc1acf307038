<script setup lang="ts">
import { computed } from 'vue'
import PedalPlot from '@/components/PedalPlot.vue'
import { useVerifyShown } from '@/lib/shown'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** The readings on the band the twin expects. */
const store = useJob()
const shown = useVerifyShown()
const expected = computed(() => shown.view?.expected ?? [])
</script>

<template>
  <PedalPlot
    v-if="expected.length"
    :traces="[
      {
        label: t('ui.twin_off'),
        style: 'thin',
        points: expected.map((e) => ({ x: e.pedal_force_n, y: e.travel_mm })),
      },
    ]"
    :band="expected.map((e) => ({ x: e.pedal_force_n, low: e.low_mm, high: e.high_mm }))"
    :marks="shown.marks"
    :floor="store.system?.pedal?.floor_mm"
  />
</template>
