<script setup lang="ts" generic="T extends string">
/** One of several, as buttons big enough for gloves. Tapping the chosen one takes it back where that is allowed. */
const props = defineProps<{
  value: NoInfer<T> | '' | null | undefined
  options: readonly { id: T; label: string }[]
  label?: string
  /** What it is of, for whoever hears it, where no label is shown. */
  name?: string
  clearable?: boolean
  testid?: string
}>()
const emit = defineEmits<{ pick: [T | null] }>()
function pick(id: T) {
  emit('pick', props.clearable && props.value === id ? null : id)
}
</script>

<template>
  <fieldset class="choice" :aria-label="label ? undefined : name">
    <legend v-if="label" class="small">{{ label }}</legend>
    <div class="row">
      <button
        v-for="o in options"
        :key="o.id"
        type="button"
        class="tap"
        :aria-pressed="value === o.id"
        :data-testid="testid ? `${testid}-${o.id}` : undefined"
        @click="pick(o.id)"
      >
        {{ o.label }}
      </button>
    </div>
  </fieldset>
</template>

<style scoped>
.choice {
  border: 0;
  padding: 0;
  margin: 0;
  min-width: 0;
}
.row {
  gap: 6px;
}
</style>
