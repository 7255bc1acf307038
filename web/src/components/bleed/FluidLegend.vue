<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { t } from '@/lib/words'

/** What the drawing's colours mean, and how much old fluid is where it cannot be seen at a wheel. */
defineProps<{ fluid: Schemas['JobFluidNow'] }>()
const percent = (x: number | undefined) => t('ui.of_which_old', { percent: Math.round((x ?? 1) * 100) })
</script>

<template>
  <p class="row small">
    <svg width="44" height="14" aria-hidden="true"><path d="M0 7H44" class="old" /></svg>{{ t('ui.old_fluid') }}
    <svg width="44" height="14" aria-hidden="true"><path d="M0 7H44" class="new" /></svg>{{ t('ui.new_fluid') }}
  </p>
  <table>
    <tbody>
      <tr v-for="(x, c) in fluid.reservoir" :key="'r' + c">
        <th scope="row">{{ t('ui.reservoir') }}, {{ t('ui.circuit', { id: c }) }}</th>
        <td class="fig">{{ percent(x) }}</td>
      </tr>
      <tr v-for="(x, c) in fluid.chamber" :key="'c' + c">
        <th scope="row">{{ t('ui.cylinder') }}, {{ t('ui.circuit', { id: c }) }}</th>
        <td class="fig">
          {{
            (fluid.air[c] ?? 0) > 0.005
              ? t('ui.of_which_air', { percent: Math.round(100 * fluid.air[c]!) })
              : percent(x)
          }}
        </td>
      </tr>
      <tr>
        <th scope="row">{{ t('ui.in_all') }}</th>
        <td class="fig">{{ percent(fluid.mean) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.old {
  stroke: var(--old);
  stroke-width: 13;
}
.new {
  stroke: var(--a);
  stroke-width: 3;
}
</style>
