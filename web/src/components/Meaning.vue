<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core'
import { ref } from 'vue'

/**
 * What the readings mean. On a wide screen it has a place of its own beside the work, always in view; in the hand it is a
 * line in the foot that opens upwards. Either way it pushes nothing that is tapped.
 */
defineProps<{ testid: string }>()
const wide = useMediaQuery('(min-width: 1001px)')
const open = ref(false)
</script>

<template>
  <button
    v-if="!wide"
    type="button"
    class="tap bare line"
    :aria-expanded="open"
    :data-testid="testid"
    @click="open = !open"
  >
    <span aria-live="polite"><slot name="line" /></span>
    <span class="arrow" aria-hidden="true">{{ open ? '▾' : '▴' }}</span>
  </button>
  <span v-else class="line" aria-live="polite" :data-testid="testid"><slot name="line" /></span>
  <Teleport to="#beside" :disabled="wide === false" defer>
    <div v-show="wide || open" :class="{ sheet: !wide }"><slot /></div>
  </Teleport>
</template>

<style scoped>
.line {
  margin-right: auto;
  text-align: left;
}
button.line {
  padding: 0;
  font-size: 16px;
}
.arrow {
  font-size: 20px;
}
/* Above the foot's own buttons: the foot grows upwards over the work, and nothing of it moves. */
.sheet {
  order: -1;
  flex: 1 0 100%;
  max-height: 62vh;
  overflow-y: auto;
}
.dock strong,
.line strong {
  margin-right: 0;
}
</style>
