<script setup lang="ts">
/** A day, entered and shown as this person's locale writes it; kept as yyyy-mm-dd. */
defineProps<{ modelValue: string; label: string; testid?: string }>()
const emit = defineEmits<{ 'update:modelValue': [string] }>()
</script>

<template>
  <label
    ><span class="small">{{ label }}</span
    ><input
      type="date"
      class="date fig"
      :value="modelValue"
      :data-testid="testid"
      @change="emit('update:modelValue', ($event.target as HTMLInputElement).value)"
  /></label>
</template>

<style scoped>
.date {
  display: block;
  width: 100%;
  min-height: 48px;
  padding: 0 12px;
  font: inherit;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--rule);
}
</style>
