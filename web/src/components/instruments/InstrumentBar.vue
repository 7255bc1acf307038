<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { api, ask, Refused } from '@/api/client'
import { attach, figureOf, figures, listen, mine, stopListening } from '@/lib/figures'
import { cables, hasCables, plug } from '@/lib/cable'
import { bay } from '@/lib/practice'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** The instruments that belong to this vehicle, each with its figure as it comes; others are fetched, and it is said whose they are. */
const store = useJob()
const session = useSession()
const open = ref(false)
watch(
  () => store.job?.id,
  (id) => id && void listen(id),
  { immediate: true },
)
onBeforeUnmount(stopListening)
/** On a practice vehicle that is being worked on there are stand-ins for one tap. */
const standIn = computed(
  () => !!bay.view && bay.job === store.job?.id && !bay.view.ended && session.user?.role !== 'guest',
)
async function fetchStandIns() {
  try {
    await ask(api.POST('/api/practice/{id}/instruments', { params: { path: { id: bay.job } } }))
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    bay.problem = e.problem
  }
  await listen(bay.job)
}
const others = computed(() => figures.all.filter((i) => i.job !== figures.job))
</script>

<template>
  <div v-if="figures.all.length || standIn" class="row bar" data-testid="instruments">
    <button
      v-if="standIn && !mine.length"
      type="button"
      class="tap bare"
      data-testid="stand-ins"
      @click="fetchStandIns"
    >
      {{ t('instrument.stand_ins') }}
    </button>
    <span v-for="i in mine" :key="i.id" class="one" :data-testid="'figure-' + i.kind">
      <span class="small"
        >{{ t('instrument.' + i.kind) }}<template v-if="open"> · {{ i.name }}</template></span
      >
      <strong v-if="figures.live[i.id]">
        <template v-if="i.kind === 'scan_tool'">{{ figures.live[i.id]!.text }}</template>
        <template v-else>{{ figureOf(i, figures.live[i.id]!.v) }}</template>
      </strong>
      <span v-else class="small">{{ t('instrument.silent') }}</span>
      <button
        v-if="hasCables() && !figures.live[i.id] && !cables[i.id]"
        type="button"
        class="tap bare"
        :data-testid="'cable-' + i.kind"
        @click="plug(i)"
      >
        {{ t('instrument.cable') }}
      </button>
      <span v-if="cables[i.id]?.problem" class="small bad">{{ t('instrument.problem.' + cables[i.id]!.problem) }}</span>
      <button
        v-if="!i.speaks"
        type="button"
        class="tap bare"
        :aria-label="`${t('instrument.speak')}: ${i.name}`"
        :data-testid="'speak-' + i.kind"
        @click="attach(i, true)"
      >
        {{ i.name }}: {{ t('instrument.speak') }}
      </button>
      <span v-if="i.counts.battery != null && i.counts.battery < 20" class="small bad">{{
        t('instrument.battery', { n: Math.round(i.counts.battery) })
      }}</span>
      <span v-if="i.out_of_date" class="small bad">{{ t('instrument.out_of_date') }}</span>
      <button
        v-if="open"
        type="button"
        class="tap bare"
        :aria-label="t('instrument.let_go_of', { name: i.name })"
        @click="attach(i, false)"
      >
        ✕
      </button>
    </span>
    <button
      v-if="figures.all.length && session.may('take_reading')"
      type="button"
      class="tap bare"
      :aria-expanded="open"
      data-testid="instruments-more"
      @click="open = !open"
    >
      {{ t('instrument.fetch') }}
    </button>
    <div v-if="open" class="row">
      <button
        v-for="i in others"
        :key="i.id"
        type="button"
        class="tap"
        :data-testid="'attach-' + i.kind"
        @click="attach(i, true)"
      >
        {{ t('instrument.' + i.kind) }} · {{ i.name }}
        <span v-if="i.job" class="small">{{ t('instrument.elsewhere') }}</span>
      </button>
    </div>
  </div>
</template>

<style scoped>
.bar {
  gap: 4px 18px;
  border-bottom: 1px solid var(--rule);
}
.one {
  display: inline-flex;
  gap: 8px;
  align-items: baseline;
}
.bad {
  color: var(--bad);
}
</style>
