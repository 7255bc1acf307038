<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import FoldAway from '@/components/FoldAway.vue'
import { dayText } from '@/lib/when'
import { has, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** What it really was: one tap on what cured it, or the old unit taken apart, part by part. */
const props = defineProps<{ view: Schemas['JobRecordView'] }>()
const store = useJob()
const session = useSession()
const said = computed(() => store.job!.state.really)
const note = ref('')
const name = (id: string) => (has('fault_id.' + id) ? t('fault_id.' + id) : id)
function say(fault: string) {
  if (fault === 'other' && !note.value.trim()) return
  store.send('really_was', { fault, ...(note.value.trim() ? { note: note.value.trim() } : {}) })
}
const seen = computed(() => props.view.apart.filter((p) => p.seen).length)
const key = (p: Schemas['JobRecordView']['apart'][number]) => `${p.unit}.${p.id}`
const kept = computed(() => store.job!.state.known_good_at)
</script>

<template>
  <section class="field" data-testid="really">
    <header>
      <h2>{{ t('ui.really_was') }}</h2>
      <strong v-if="said" data-testid="really-said">{{ said.fault === 'other' ? said.note : name(said.fault) }}</strong>
    </header>
    <p v-if="said" class="small">{{ t('ui.really_by', { name: said.by }) }}</p>
    <p v-else class="small">{{ t('ui.really_note') }}</p>
    <p v-if="view.may_keep_pedal || kept" class="row" data-testid="known-good">
      <template v-if="kept">{{ t('ui.pedal_kept', { at: dayText(kept) }) }}</template>
      <button
        v-else
        type="button"
        class="tap"
        :disabled="!session.may('decide')"
        data-testid="keep-pedal"
        @click="store.send('known_good')"
      >
        {{ t('ui.keep_pedal') }}
      </button>
    </p>
    <fieldset class="row" :disabled="!session.may('decide')">
      <button
        v-for="id in view.may_be"
        :key="id"
        type="button"
        class="tap"
        :aria-pressed="said?.fault === id"
        :data-testid="'really-' + id"
        @click="say(id)"
      >
        {{ name(id) }}
      </button>
      <NInput v-model:value="note" class="note" placeholder="" :input-props="{ 'aria-label': t('ui.really_other') }" />
      <button type="button" class="tap" :disabled="!note.trim()" @click="say('other')">
        {{ t('ui.really_other') }}
      </button>
    </fieldset>
    <FoldAway
      v-if="view.apart.length"
      :title="t('ui.old_apart')"
      :line="`${seen} / ${view.apart.length}`"
      data-testid="apart"
    >
      <Choice
        v-for="p in view.apart"
        :key="key(p)"
        :label="t('apart.' + p.id) + (p.points_to ? `: ${t('part_points.' + p.points_to)}` : '')"
        :value="p.seen?.state ?? null"
        :options="
          [...p.states, ...(p.seen?.state === 'damaged' ? ['damaged'] : [])].map((id) => ({
            id,
            label: t('part_state.' + id),
          }))
        "
        :testid="'part-' + p.id"
        @pick="(v) => v && store.send('part_seen', { unit: p.unit, part: p.id, state: v as never })"
      />
    </FoldAway>
  </section>
</template>

<style scoped>
fieldset {
  border: 0;
  margin: 0;
  padding: 0;
  gap: 6px;
}
.note {
  flex: 0 1 200px;
}
</style>
