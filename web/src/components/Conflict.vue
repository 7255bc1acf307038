<script setup lang="ts">
import { NModal } from 'naive-ui'
import { computed } from 'vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Two people edited the same part: both versions are shown, nothing is stored until one is chosen. */
const store = useJob()
type Tree = Record<string, unknown>
function differences(mine: Tree, theirs: Tree, at = ''): { field: string; mine: string; theirs: string }[] {
  const out = []
  for (const k of new Set([...Object.keys(mine ?? {}), ...Object.keys(theirs ?? {})])) {
    const a = mine?.[k]
    const b = theirs?.[k]
    if (JSON.stringify(a) === JSON.stringify(b)) continue
    const field = at ? `${at}.${k}` : k
    if (a && b && typeof a === 'object' && typeof b === 'object') out.push(...differences(a as Tree, b as Tree, field))
    else out.push({ field, mine: String(a ?? '–'), theirs: String(b ?? '–') })
  }
  return out
}
const rows = computed(() => {
  const c = store.conflict
  return c ? differences(c.mine as unknown as Tree, c.theirs[c.part] as unknown as Tree) : []
})
</script>

<template>
  <NModal
    :show="true"
    preset="card"
    :title="t('problem.stale')"
    style="width: 720px; max-width: 96vw"
    :closable="false"
    :mask-closable="false"
  >
    <table data-testid="conflict">
      <thead>
        <tr>
          <th>{{ t('ui.field') }}</th>
          <th>{{ t('ui.stored_now') }}</th>
          <th>{{ t('ui.yours') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.field">
          <td>{{ r.field }}</td>
          <td>{{ r.theirs }}</td>
          <td>{{ r.mine }}</td>
        </tr>
      </tbody>
    </table>
    <div class="row" style="margin-top: 16px">
      <button class="tap main" data-testid="take-theirs" @click="store.settle(false)">{{ t('ui.take_theirs') }}</button>
      <button class="tap" @click="store.settle(true)">{{ t('ui.store_mine') }}</button>
    </div>
  </NModal>
</template>
