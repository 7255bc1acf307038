<script setup lang="ts">
/** A state as a shape; the word stands beside it. ok: filled hexagon, missing: hollow, failed: cross. */
defineProps<{ state: string }>()
</script>

<template>
  <svg viewBox="0 0 20 20" width="20" height="20" aria-hidden="true" class="mark" :class="state">
    <path v-if="state === 'ok' || state === 'done' || state === 'same'" d="M5.5 2h9L19 10l-4.5 8h-9L1 10z" />
    <path
      v-else-if="state === 'failed' || state === 'does_not_fit' || state === 'bad'"
      class="x"
      d="M4 4l12 12M16 4L4 16"
    />
    <path v-else-if="state === 'fits_with'" class="open" d="M6 3h8l4 7-4 7H6L2 10z M10 6.5v7M6.5 10h7" />
    <path v-else-if="state === 'changes_pedal'" class="open" d="M3 15c5 0 6-10 14-10M13 3l4 2-3 3.5" />
    <path v-else class="open" d="M6 3h8l4 7-4 7H6L2 10z" />
    <path v-if="state === 'ok' || state === 'done' || state === 'same'" class="tick" d="M5.6 10.4l3 3 6-6.6" />
  </svg>
</template>

<style scoped>
.mark {
  flex: none;
  vertical-align: -4px;
}
path {
  stroke-width: 2;
  fill: var(--ok);
  stroke: var(--ok);
}
.mark .tick {
  stroke: var(--sheet);
  stroke-width: 2.4;
  fill: none;
}
.x {
  stroke: var(--bad);
  stroke-width: 3.4;
}
.open {
  fill: none;
  stroke: var(--ink-2);
}
</style>
