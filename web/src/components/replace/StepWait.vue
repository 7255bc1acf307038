<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import NumField from '@/components/NumField.vue'
import { clockText } from '@/lib/clock'
import { useTimer, type Timer } from '@/lib/timer'
import { t } from '@/lib/words'

/** A wait that has to run out before the step is done; the maker's time may be set. */
const props = defineProps<{ clock: Timer['clock'] }>()
const { timer, running, elapsed, over, start } = useTimer(props.clock)
const minutes = ref<number | null>(null)
const maker = ref('')
</script>

<template>
  <div class="row">
    <NumField
      v-if="!running"
      v-model="minutes"
      name="min"
      bound="wait.minutes"
      unitless
      :label="t('ui.wait_minutes')"
    />
    <NInput
      v-if="!running && minutes"
      v-model:value="maker"
      class="maker"
      :placeholder="t('ui.maker_says')"
      :input-props="{ 'aria-label': t('ui.maker_says') }"
    />
    <button
      v-if="!running"
      type="button"
      class="tap"
      data-testid="start-wait"
      @click="start(minutes ? minutes * 60 : undefined, maker.trim() || undefined)"
    >
      {{ t('ui.start_wait') }}
    </button>
    <strong v-else-if="over" role="status">{{ t('ui.time_is_up') }}</strong>
    <span v-else class="fig">{{ t('ui.waiting_out', { left: clockText((timer?.seconds ?? 0) - elapsed) }) }}</span>
  </div>
</template>

<style scoped>
.maker {
  width: 240px;
}
</style>
