<script setup lang="ts">
import PedalPlot from '@/components/PedalPlot.vue'
import UnitShown from '@/components/match/UnitShown.vue'
import { useMatchShown } from '@/lib/shown'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** The unit looked at over the old one, and the pedal with each. */
const store = useJob()
const shown = useMatchShown()
</script>

<template>
  <div class="field" data-testid="match-side">
    <UnitShown v-if="shown.c && shown.old" :c="shown.c" :old="shown.old" />
    <h3 class="gap">{{ t('ui.pedal_after') }}</h3>
    <PedalPlot :traces="shown.traces" :floor="store.system?.pedal?.floor_mm" :coupler="store.isTrailer" />
    <p class="small">{{ t('caution.twin') }}</p>
  </div>
</template>

<style scoped>
.gap {
  margin-top: 12px;
}
</style>
