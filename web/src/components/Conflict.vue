<script setup lang="ts">
import SheetBox from '@/components/SheetBox.vue'
import { computed } from 'vue'
import { placeName } from '@/lib/path'
import { figure } from '@/lib/units'
import { has, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** Two people set the same otherwise: each such field with both values; what does not touch is merged already. */
const store = useJob()
const session = useSession()
function shown(path: string, v: unknown): string {
  if (v === undefined || v === null || v === '') return t('ui.nothing_there')
  const name = path.split('/').at(-1)!
  if (typeof v === 'number') return figure(name, v, session.pref)
  if (typeof v === 'boolean') return t(v ? 'value.yes' : 'value.no')
  if (typeof v === 'string') {
    const key = ['scope.', 'method.', 'order.', 'pattern.', 'enum.'].map((k) => k + v).find(has)
    return key ? t(key) : v
  }
  const named = v as { name?: string; part_number?: string }
  return [named.name, named.part_number].filter(Boolean).join(' ') || t('ui.a_different_one')
}
const rows = computed(() =>
  (store.conflict?.clashes ?? []).map((c) => ({
    field: placeName(c.path, store.system?.wheels),
    mine: shown(c.path, c.mine),
    theirs: shown(c.path, c.theirs),
  })),
)
</script>

<template>
  <SheetBox :show="true" :title="t('problem.stale')" :width="720" :closable="false">
    <p>{{ t('ui.clash_note') }}</p>
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
      <button class="tap" data-testid="keep-mine" @click="store.settle(true)">{{ t('ui.store_mine') }}</button>
    </div>
  </SheetBox>
</template>
