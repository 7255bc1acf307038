<script setup lang="ts">
import { computed } from 'vue'
import Fig from '@/components/Fig.vue'
import type { BleedView } from '@/lib/bleeding'
import { t } from '@/lib/words'

/** How far it is to the next filling or drawing down, in the method's own measure, and in fluid. */
const props = defineProps<{ view: BleedView }>()
const a = computed(() => props.view.ahead)
const text = computed(() => {
  if (a.value.steps < 0) return t('ui.ahead_fed')
  const what = a.value.up ? 'ui.ahead_down' : 'ui.ahead_fill'
  return ['cm3', 'steps'].includes(a.value.counts)
    ? t(what)
    : t(what) + ' ' + t('ui.ahead_in_' + a.value.counts, { n: a.value.steps })
})
</script>

<template>
  <span data-testid="refill-in"
    >{{ text }}<template v-if="a.cm3 >= 0"> · <Fig name="cm3" :value="a.cm3" /></template
  ></span>
</template>
