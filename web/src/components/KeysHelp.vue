<script setup lang="ts">
import SheetBox from '@/components/SheetBox.vue'
import { keysShown as open, singleKeys, useKeys } from '@/lib/keys'
import { t } from '@/lib/words'

useKeys({ '?': () => (open.value = !open.value) })
const keys: [string, string][] = [
  ['?', 'keys.help'],
  ['1 – 8', 'keys.station'],
  ['B', 'keys.bay'],
  ['Space', 'keys.stroke'],
  ['A', 'keys.together'],
  ['Z', 'keys.undo'],
  ['R', 'keys.refill'],
  ['C', 'keys.clear'],
  ['T', 'keys.twin'],
  ['← →', 'keys.foot'],
  ['E', 'keys.engine'],
  ['N', 'keys.night'],
]
</script>

<template>
  <SheetBox v-model:show="open" :title="t('keys.title')" :width="460">
    <table>
      <tbody>
        <tr v-for="[key, what] in keys" :key="key">
          <td style="width: 90px">
            <kbd class="fig">{{ key }}</kbd>
          </td>
          <td>{{ t(what) }}</td>
        </tr>
      </tbody>
    </table>
    <p class="row">
      <button
        type="button"
        class="tap"
        :aria-pressed="singleKeys"
        data-testid="single-keys"
        @click="singleKeys = !singleKeys"
      >
        {{ t('keys.single') }}
      </button>
    </p>
  </SheetBox>
</template>
