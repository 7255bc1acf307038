<script setup lang="ts">
import { computed } from 'vue'
import Choice from '@/components/Choice.vue'
import { t } from '@/lib/words'

/** Each place by name: wet, looked at and dry, or not looked at. A place nobody looked at is not taken for dry. */
const props = defineProps<{ places: string[]; wet: string[]; looked: string[] | undefined }>()
const emit = defineEmits<{ find: [wet: string[] | null, looked: string[] | null] }>()
const options = ['wet', 'dry'].map((id) => ({ id, label: t('look.' + id) }))
const dryAlone = computed(() => props.wet.includes('dry') && !props.looked)
function of(place: string): string | null {
  if (props.wet.includes(place)) return 'wet'
  return props.looked?.includes(place) ? 'dry' : null
}
function pick(place: string, v: string | null) {
  const now = (p: string) => (p === place ? v : of(p))
  const wet = props.places.filter((p) => now(p) === 'wet')
  const looked = props.places.filter((p) => now(p))
  emit('find', looked.length ? (wet.length ? wet : ['dry']) : null, looked.length ? looked : null)
}
</script>

<template>
  <div class="places" data-testid="places">
    <p v-if="dryAlone" class="small">{{ t('ui.dry_outside') }}</p>
    <div v-for="p in places" :key="p" class="row spread place">
      <span
        >{{ t('value.' + p) }} <span class="small" :class="{ hidden: of(p) }">{{ t('look.not') }}</span></span
      >
      <Choice
        :name="t('value.' + p)"
        :value="of(p)"
        :options="options"
        clearable
        :testid="'wet.at-' + p"
        @pick="(v) => pick(p, v)"
      />
    </div>
  </div>
</template>

<style scoped>
.hidden {
  visibility: hidden; /* its room stays: nothing moves under the hand */
}
.place {
  padding: 4px 0;
  border-top: 1px dotted var(--rule-soft);
}
</style>
