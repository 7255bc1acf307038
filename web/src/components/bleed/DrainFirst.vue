<script setup lang="ts">
import Fig from '@/components/Fig.vue'
import type { BleedView } from '@/lib/bleeding'
import { t } from '@/lib/words'

/** Old fluid still stands in the reservoir: what it costs to go on, and to draw it off first. Both ways stay open. */
defineProps<{ view: BleedView }>()
defineEmits<{ drawn: [] }>()
</script>

<template>
  <div v-if="view.drain_first" class="caution two" data-testid="drain-first">
    <p>{{ t('ui.drain_first') }}</p>
    <table>
      <tbody>
        <tr v-for="w in ['now', 'drained'] as const" :key="w">
          <th scope="row">{{ t('ui.way_' + w) }}</th>
          <td v-if="view.drain_first[w].strokes" class="fig">
            {{ t('ui.n_strokes', { n: view.drain_first[w].strokes }) }}
          </td>
          <td class="fig"><Fig name="cm3" :value="view.drain_first[w].cm3" /></td>
          <td class="fig">{{ Math.max(1, Math.round(view.drain_first[w].minutes)) }} min</td>
        </tr>
      </tbody>
    </table>
    <button type="button" class="tap" data-testid="drain-now" @click="$emit('drawn')">{{ t('ui.drawn_off') }}</button>
  </div>
</template>

<style scoped>
.two {
  margin-bottom: 10px;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
  align-items: center;
}
p {
  margin: 0;
  flex: 1 1 100%;
}
td {
  padding-right: 14px;
}
</style>
