<script setup lang="ts">
/** A section that folds away: its name, what stands in it in one line, and the rest when it is opened. */
defineProps<{ title: string; line?: string; open?: boolean }>()
</script>

<template>
  <details class="field" :open="open">
    <summary>
      <h2>{{ title }}</h2>
      <span v-if="line" class="small">{{ line }}</span>
    </summary>
    <slot />
  </details>
</template>

<style scoped>
summary {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
  min-height: 48px;
  cursor: pointer;
}
</style>
