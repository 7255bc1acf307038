<script setup lang="ts">
import { ref, watch } from 'vue'

/**
 * A section that folds away: its name, what stands in it in one line, and the rest when it is opened. It may be opened
 * for somebody; it is never closed under their hands.
 */
const props = defineProps<{ title: string; line?: string; open?: boolean }>()
const opened = ref(!!props.open)
watch(
  () => props.open,
  (open) => {
    if (open) opened.value = true
  },
)
</script>

<template>
  <details class="field" :open="opened" @toggle="opened = ($event.target as HTMLDetailsElement).open">
    <summary>
      <h2>{{ title }}</h2>
      <span v-if="line" class="small">{{ line }}</span>
    </summary>
    <slot />
  </details>
</template>

<style scoped>
.field {
  padding-block: 4px;
}
.field[open] {
  padding-bottom: 16px;
}
summary {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  min-height: 48px;
  cursor: pointer;
}
summary::after {
  content: '+' / '';
  margin-left: auto;
  font-size: 24px;
  color: var(--ink-2);
}
[open] > summary::after {
  content: '–' / '';
}
</style>
