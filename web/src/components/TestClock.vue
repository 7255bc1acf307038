<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from 'vue'
import { t } from '@/lib/words'

/** A clock that runs to a test's time and then says so; it can be read from two metres. */
const props = defineProps<{ seconds: number }>()
const emit = defineEmits<{ read: [number] }>()
const passed = ref(0)
const running = ref(false)
let began = 0
let timer: ReturnType<typeof setInterval> | undefined
const done = computed(() => passed.value >= props.seconds)
function tick() {
  passed.value = (performance.now() - began) / 1000
  emit('read', Math.round(passed.value))
}
function toggle() {
  if (running.value) {
    clearInterval(timer)
    tick()
    running.value = false
    return
  }
  began = performance.now()
  passed.value = 0
  running.value = true
  timer = setInterval(tick, 200)
}
onBeforeUnmount(() => clearInterval(timer))
</script>

<template>
  <div class="row clock">
    <button type="button" class="tap" :class="{ on: running }" data-testid="test-clock" @click="toggle">
      <span class="fig big">{{ Math.floor(passed) }} s</span>
      {{ t(running ? 'ui.stop_clock' : passed ? 'ui.start_over' : 'ui.start_clock') }}
    </button>
    <span class="track" aria-hidden="true"
      ><i :style="{ width: Math.min(100, (100 * passed) / seconds) + '%' }"
    /></span>
    <strong v-if="done" role="status">{{ t('ui.clock_done') }}</strong>
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
