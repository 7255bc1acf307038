<script setup lang="ts">
import { ref, watch } from 'vue'
import TakeLive from '@/components/instruments/TakeLive.vue'
import NumField from '@/components/NumField.vue'
import type { BleedView } from '@/lib/bleeding'
import { takenFor } from '@/lib/figures'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** The water in the fluid, before the old goes out and after the new is in: asked where the bottle is in hand. */
const props = defineProps<{ view: BleedView; phase: 'diagnose' | 'verify' }>()
const store = useJob()
const told = () => (props.phase === 'diagnose' ? props.view.water_before : props.view.water_after)
const percent = ref<number | null>(told())
watch(told, (v) => (percent.value = v))
function tell() {
  if (percent.value == null || percent.value === told()) return
  store.send('finding', {
    phase: props.phase,
    finding: 'fluid.water_percent',
    value: percent.value as never,
    ...takenFor('fluid.water_percent', percent.value),
  })
}
</script>

<template>
  <div class="row water">
    <NumField
      v-model="percent"
      name="percent"
      bound="bottle.water_percent"
      :label="t(phase === 'diagnose' ? 'ui.water_before' : 'ui.water_after')"
      :testid="'water-' + phase"
    />
    <TakeLive kind="water" @take="(v) => (percent = v)" />
    <button type="button" class="tap" :disabled="percent == null || percent === told()" @click="tell">
      {{ t('ui.add') }}
    </button>
  </div>
</template>

<style scoped>
.water {
  align-items: flex-end;
}
</style>
