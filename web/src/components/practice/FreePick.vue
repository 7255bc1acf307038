<script setup lang="ts">
import { computed } from 'vue'
import NumField from '@/components/NumField.vue'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** Free practice chosen: a kind of vehicle, how hard, and the number it is drawn by. */
export interface Free {
  pattern: string
  hardness: 'plain' | 'usual' | 'hard'
  seed: number | null
}
const free = defineModel<Free>({ required: true })
defineProps<{ bounds: number[]; hardnesses: Free['hardness'][] }>()
const session = useSession()
const patterns = computed(() => session.vocabulary?.patterns ?? [])
const set = (change: Partial<Free>) => (free.value = { ...free.value, ...change })
</script>

<template>
  <select
    :value="free.pattern"
    class="tap"
    :aria-label="t('ui.pattern')"
    data-testid="free-pattern"
    @change="set({ pattern: ($event.target as HTMLSelectElement).value })"
  >
    <option v-for="p in patterns" :key="p.id" :value="p.id">{{ t('pattern.' + p.id) }}</option>
  </select>
  <select
    :value="free.hardness"
    class="tap"
    :aria-label="t('practice.hardness')"
    data-testid="free-hardness"
    @change="set({ hardness: ($event.target as HTMLSelectElement).value as Free['hardness'] })"
  >
    <option v-for="h in hardnesses" :key="h" :value="h">{{ t('hardness.' + h) }}</option>
  </select>
  <NumField
    :model-value="free.seed"
    name="plain"
    unitless
    :label="t('practice.seed')"
    :min="bounds[0]"
    :max="bounds[1]"
    testid="free-seed"
    @update:model-value="(seed) => set({ seed })"
  />
</template>

<style scoped>
select {
  max-width: 100%;
}
</style>
