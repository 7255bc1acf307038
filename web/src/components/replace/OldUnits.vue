<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import FoldAway from '@/components/FoldAway.vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** What became of each unit that came off: kept, returned for its core charge, rebuilt, thrown away; by whom. */
const props = defineProps<{ units: string[] }>()
const store = useJob()
const session = useSession()
const told = computed(() => (store.job!.state.old_units ?? {}) as Record<string, Schemas['JobOldUnit']>)
const notes = ref<Record<string, string>>({})
const line = computed(() =>
  props.units
    .filter((u) => told.value[u])
    .map((u) => `${t('old_unit.' + u)}: ${t('went.' + told.value[u]!.went)} (${told.value[u]!.by})`)
    .join(' · '),
)
const tell = (unit: string, went: string | null) =>
  went && store.send('old_unit', { unit, went, note: notes.value[unit] || told.value[unit]?.note || undefined })
</script>

<template>
  <FoldAway :title="t('ui.old_unit_went')" :line="line" data-testid="old-units">
    <div v-for="u in units" :key="u" class="one">
      <NInput
        :value="notes[u] ?? told[u]?.note ?? ''"
        :placeholder="t('ui.old_unit_note')"
        :input-props="{ 'aria-label': t('ui.old_unit_note') }"
        @update:value="(v: string) => (notes[u] = v)"
      />
      <Choice
        :label="t('old_unit.' + u)"
        :value="told[u]?.went ?? null"
        :options="(session.vocabulary?.went ?? []).map((w) => ({ id: w, label: t('went.' + w) }))"
        :testid="'went-' + u"
        @pick="(w) => tell(u, w)"
      />
    </div>
  </FoldAway>
</template>

<style scoped>
.one {
  display: grid;
  gap: 6px;
  margin-bottom: 10px;
}
</style>
