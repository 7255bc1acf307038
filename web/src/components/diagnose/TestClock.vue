<script setup lang="ts">
import { watch } from 'vue'
import { useAwake } from '@/lib/ring'
import { useTimer } from '@/lib/timer'
import { t } from '@/lib/words'

/** A test's clock, read from two metres. It runs on whatever happens to this page. */
const props = defineProps<{ test: string; seconds: number }>()
const emit = defineEmits<{ read: [number] }>()
const { timer, running, elapsed, over, toggle } = useTimer('test', () => props.test)
useAwake(running)
watch([elapsed, running], () => timer.value && emit('read', Math.round(elapsed.value)), { immediate: true })
</script>

<template>
  <div class="row clock">
    <button type="button" class="tap" :class="{ on: running }" data-testid="test-clock" @click="toggle">
      <span class="fig big">{{ Math.floor(elapsed) }} s</span>
      {{ t(running ? 'ui.stop_clock' : timer ? 'ui.start_over' : 'ui.start_clock') }}
    </button>
    <span class="track" aria-hidden="true"
      ><i :style="{ width: Math.min(100, (100 * elapsed) / seconds) + '%' }"
    /></span>
    <strong v-if="over" role="status">{{ t('ui.clock_done') }}</strong>
    <span v-else class="small fig">{{ seconds }} s</span>
  </div>
</template>

<style scoped>
.big {
  font-size: 30px;
  font-weight: 600;
  min-width: 84px;
}
.track {
  flex: 1 1 120px;
  height: 12px;
  border: 1px solid var(--rule);
}
.track i {
  display: block;
  height: 100%;
  background: var(--a);
}
</style>
