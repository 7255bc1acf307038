<script setup lang="ts">
import { computed } from 'vue'
import Choice from '@/components/Choice.vue'
import Schematic from '@/components/Schematic.vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** A value at each wheel or each circuit, entered beside the vehicle it is drawn on. */
const props = defineProps<{
  id: string
  values: string[]
  wheels: boolean
  value: Record<string, string>
}>()
const emit = defineEmits<{ pick: [Record<string, string> | null] }>()
const job = useJob()
const places = computed(() =>
  (props.wheels ? (job.system?.wheels ?? []) : (job.system?.circuits ?? [])).map((p) => p.id),
)
const circuitOf = (wheel: string) => job.system?.circuits.find((c) => c.wheels.includes(wheel))?.id ?? ''
const marks = computed(() => {
  const out: Record<string, string> = {}
  for (const [at, v] of Object.entries(props.value)) {
    const on = props.wheels ? [at] : (job.system?.circuits.find((c) => c.id === at)?.wheels ?? [])
    for (const w of on) out[w] = v === props.values[0] ? '' : t('value.' + v)
  }
  return out
})
function set(at: string, v: string | null) {
  const next: Record<string, string> = { ...props.value }
  if (v) next[at] = v
  else delete next[at]
  emit('pick', Object.keys(next).length ? next : null)
}
/** What is left unsaid is in order. */
function rest() {
  emit('pick', Object.fromEntries(places.value.map((p) => [p, props.value[p] ?? props.values[0]!])))
}
const label = (p: string) =>
  props.wheels ? t('ui.wheel_on', { id: p, circuit: circuitOf(p) }) : t('ui.circuit', { id: p })
</script>

<template>
  <div class="placed">
    <Schematic
      v-if="job.system"
      :system="job.system"
      :marks="marks"
      :suspect="Object.keys(marks).filter((k) => marks[k])"
    />
    <div class="list">
      <Choice
        v-for="p in places"
        :key="p"
        :label="label(p)"
        clearable
        :value="value[p]"
        :options="values.map((v) => ({ id: v, label: t('value.' + v) }))"
        :testid="`${id}-${p}`"
        @pick="(v) => set(p, v)"
      />
      <button
        v-if="Object.keys(value).length < places.length"
        type="button"
        class="tap"
        :data-testid="id + '-rest'"
        @click="rest"
      >
        {{ t('ui.rest_in_order', { value: t('value.' + values[0]) }) }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.placed {
  display: grid;
  grid-template-columns: minmax(0, 240px) minmax(0, 1fr);
  gap: 18px;
  align-items: start;
}
.list {
  display: grid;
  gap: 8px;
}
@media (max-width: 620px) {
  .placed {
    grid-template-columns: 1fr;
  }
}
</style>
