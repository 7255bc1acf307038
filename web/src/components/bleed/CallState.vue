<script setup lang="ts">
import { computed } from 'vue'
import { t } from '@/lib/words'

/** Whether the two hear each other, and what the last tap did not do: one line, always there, so that nothing moves. */
const props = defineProps<{ shout: boolean; note: string; other: string }>()
const text = computed(() => t(props.shout ? 'ui.call_shout' : props.note || 'ui.call_other_' + props.other))
</script>

<template>
  <p class="state" :class="{ shout, note: !!note }" role="status" data-testid="call-state">{{ text }}</p>
</template>

<style scoped>
.state {
  margin: 0;
  padding: 6px 12px;
  min-height: 3.2em;
  font-size: 18px;
  border-left: 6px solid var(--rule);
  display: flex;
  align-items: center;
}
.note {
  border-color: var(--brass);
}
.shout {
  border-color: var(--bad);
  font-weight: 700;
}
</style>
