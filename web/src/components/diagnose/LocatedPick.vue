<script setup lang="ts">
import { computed } from 'vue'
import Choice from '@/components/Choice.vue'
import { t, wheels } from '@/lib/words'
import { useJob } from '@/stores/job'

/** A choice that, said of one wheel or one circuit, asks which. */
const props = defineProps<{ id: string; values: string[]; value: unknown }>()
const emit = defineEmits<{ find: [unknown] }>()
const job = useJob()
const at = computed(() => (typeof props.value === 'object' ? (props.value as Record<string, string> | null) : null))
const chosen = computed(() => (at.value ? Object.keys(at.value)[0] : (props.value as string | undefined)))
const places = computed(() => {
  if (chosen.value === 'one_wheel') return (job.system?.wheels ?? []).map((w) => ({ id: w.id, label: wheels(w.id) }))
  if (chosen.value !== 'one_circuit') return []
  return (job.system?.circuits ?? []).map((c) => ({ id: c.id, label: t('ui.circuit', { id: c.id }) }))
})
</script>

<template>
  <Choice
    clearable
    :name="t('finding.' + id)"
    :value="chosen"
    :options="values.map((v) => ({ id: v, label: t('value.' + v) }))"
    :testid="id"
    @pick="(v) => emit('find', v)"
  />
  <Choice
    v-if="places.length"
    clearable
    :value="at?.[chosen!]"
    :label="t(chosen === 'one_wheel' ? 'ui.which_wheel' : 'ui.which_circuit')"
    :options="places"
    :testid="id + '-at'"
    @pick="(v) => emit('find', v ? { [chosen!]: v } : chosen)"
  />
</template>
