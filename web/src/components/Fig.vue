<script setup lang="ts">
import { computed, ref } from 'vue'
import { displayOf, figure } from '@/lib/units'
import { useSession } from '@/stores/session'

/** A figure in this person's units; a tap goes through the others, on this figure alone. */
const props = defineProps<{ name: string; value: number | null | undefined }>()
const session = useSession()
const own = ref<string | null>(null)
const pref = computed(() => own.value ?? session.pref)
const text = computed(() => (props.value == null ? '–' : figure(props.name, props.value, pref.value)))
const turns = computed(() => !!displayOf(props.name))
function turn() {
  const all = ['metric', 'us', 'both']
  own.value = all[(all.indexOf(pref.value) + 1) % 3]
}
</script>

<template>
  <button v-if="turns" type="button" class="figure fig" title="metric, US, both" @click.stop.prevent="turn">
    {{ text }}
  </button>
  <span v-else class="fig">{{ text }}</span>
</template>

<style scoped>
.figure {
  font: inherit;
  font-variant-numeric: tabular-nums;
  font-weight: inherit;
  color: inherit;
  background: none;
  border: 0;
  border-bottom: 1px dotted var(--rule);
  padding: 0;
  min-height: 24px;
  cursor: pointer;
}
</style>
