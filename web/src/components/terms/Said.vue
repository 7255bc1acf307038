<script setup lang="ts">
import { computed, ref } from 'vue'
import TrainDrawing from './TrainDrawing.vue'
import { cut, terms } from '@/lib/terms'
import { t } from '@/lib/words'

/** A text whose words of the trade can be tapped for a meaning with its drawing. */
const props = defineProps<{ text: string }>()
const parts = computed(() => cut(props.text))
const open = ref<string | null>(null)
const flip = (term: string) => (open.value = open.value === term ? null : term)
</script>

<template>
  <span
    ><template v-for="(p, i) in parts" :key="i"
      ><button
        v-if="p.term"
        type="button"
        class="term"
        :aria-expanded="open === p.term"
        @click.stop.prevent="flip(p.term)"
      >
        {{ p.text }}</button
      ><template v-else>{{ p.text }}</template></template
    ><span v-if="open" class="meaning" role="note" @keydown.esc="open = null"
      ><span>{{ t('term_what.' + open) }}</span
      ><TrainDrawing :lit="terms[open] ?? ''" /></span
  ></span>
</template>

<style scoped>
.term {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  border-bottom: 2px dotted var(--rule);
  padding: 0;
  min-height: 0;
  cursor: help;
  text-align: left;
}
.meaning {
  display: block;
  font-weight: 400;
  font-size: 16px;
  border-left: 4px double var(--ink);
  padding: 6px 10px;
  margin: 6px 0;
  background: var(--sheet);
}
</style>
