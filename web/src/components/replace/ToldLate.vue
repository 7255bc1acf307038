<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { timeText } from '@/lib/when'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Two people told otherwise of one thing, or one told late what others did not know: both are shown, and somebody looks. */
defineProps<{ doubts: Schemas['JobDoubtAsked'][] }>()
const store = useJob()
const told = (x: Schemas['StandTelling']) =>
  t('ui.told_late_one', { name: x.name || '–', at: timeText(x.at), step: t('step.' + x.step) })
const look = (thing: Schemas['StandThing'], state: Schemas['JobSeenState']) =>
  void store.send('thing_seen', { thing, state })
</script>

<template>
  <section v-for="d in doubts" :key="d.thing" class="field" role="alert" :data-testid="'doubt-' + d.thing">
    <h2>{{ t('ui.told_late_title') }}</h2>
    <p>{{ told(d.late) }}</p>
    <p v-if="d.before.step">{{ told(d.before) }}</p>
    <div class="row">
      <button
        v-for="s in d.states"
        :key="s"
        type="button"
        class="tap"
        :data-testid="`look-${d.thing}-${s}`"
        @click="look(d.thing, s)"
      >
        {{ t('ui.look_' + s) }}
      </button>
    </div>
  </section>
</template>
