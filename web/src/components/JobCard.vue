<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import RunningTimers from './RunningTimers.vue'
import Schematic from './Schematic.vue'
import type { Schemas } from '@/api/client'
import { useNow } from '@/lib/clock'
import { isOver } from '@/lib/timer'
import { dayText, latelyText } from '@/lib/when'
import { t, waitsFor } from '@/lib/words'

/** One job in the bay: its drawing, what was said, where it stands and what it waits for. */
const props = defineProps<{ j: Schemas['JobCard']; here?: string[] }>()
const now = useNow()
/** Its clock has rung: that is seen from across the shop. */
const rang = computed(() => (props.j.timers ?? []).some((x) => isOver(x, now.value)))
</script>

<template>
  <RouterLink :to="`/jobs/${j.id}/${j.status.at || 'intake'}`" class="job field" :class="{ rang }" data-testid="job">
    <Schematic v-if="j.system" :system="j.system" class="mini" aria-hidden="true" />
    <div class="what">
      <div class="name">
        <h3>{{ j.vehicle }}</h3>
        <span class="fig small">{{ latelyText(j.updated_at) }}</span>
      </div>
      <span class="fig small">{{ [j.plate, j.customer].filter(Boolean).join(' · ') }}</span>
      <p class="said">{{ j.complaint }}</p>
      <p v-if="j.status.band === 'planned'" class="fig" data-testid="comes-on">
        <strong>{{ t('ui.comes_on', { day: dayText(j.for_day) }) }}</strong> {{ j.have_ready }}
      </p>
      <div class="stand">
        <span class="pair" aria-hidden="true"
          ><i v-for="s in j.status.stations" :key="s.id" :class="[s.state, { at: s.id === j.status.at }]"
        /></span>
        <span class="small">{{ t('station.' + (j.status.at || 'intake')) }}</span>
      </div>
      <strong v-if="j.parked" class="not-driven" data-testid="not-driven">{{ t('ui.parked') }}</strong>
      <p v-if="here?.length" class="small" data-testid="at-it">{{ t('ui.at_it', { names: here.join(', ') }) }}</p>
      <RunningTimers v-if="j.timers?.length" :timers="j.timers" />
      <p>
        <span class="small lead">{{ t(j.status.released ? 'ui.state' : 'ui.waits') }}</span>
        <strong class="waits"> {{ waitsFor(j.status) }}</strong>
      </p>
    </div>
  </RouterLink>
</template>

<style scoped>
.not-driven {
  color: var(--bad);
  border: 4px double var(--bad);
  padding: 0 8px;
  justify-self: start;
}
.rang {
  border: 5px double var(--warn);
  background: var(--warn-bg);
}
.rang :deep(.n) {
  font-size: 54px;
  line-height: 1;
}
.what {
  min-width: 0;
}
.name {
  display: flex;
  gap: 10px;
  justify-content: space-between;
  align-items: baseline;
}
.name .fig {
  white-space: nowrap;
}
.name h3 {
  font-size: 22px;
}
.job {
  display: grid;
  grid-template-columns: 118px 1fr;
  gap: 16px;
  text-decoration: none;
  color: var(--ink);
  height: 100%;
}
.job:hover {
  border-color: var(--ink);
}
.mini :deep(text) {
  display: none; /* at this size a label is six pixels high: the drawing alone tells the vehicles apart */
}
.mini {
  align-self: center;
}
.said {
  margin: 6px 0 10px;
}
.stand {
  display: flex;
  gap: 12px;
  align-items: center;
}
.pair {
  flex: 0 1 196px;
  display: flex;
  gap: 3px;
}
.pair i {
  flex: 1 1 22px;
  height: 10px;
  border-top: 3px solid var(--rule);
  border-bottom: 3px dashed var(--rule);
}
.pair .done {
  border-color: var(--ink);
}
.pair .started {
  border-top-color: var(--ink);
}
.pair .at {
  background: var(--brass);
}
.lead {
  margin-right: 8px;
}
.waits {
  font-size: 18px;
}
@media (max-width: 560px) {
  .job {
    grid-template-columns: 1fr;
  }
  .mini {
    display: none;
  }
}
</style>
