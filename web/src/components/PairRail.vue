<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { stationIds } from '@/router'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/**
 * The stations as fittings on the pair of lines; the lines fill as the work is done. On a phone: the one before, this one
 * and the one after, and all of them as a list.
 */
const store = useJob()
const route = useRoute()
const stops = computed(() =>
  stationIds.map((id, i) => {
    const p = store.status?.stations.find((s) => s.id === id)
    return { id, n: i + 1, state: p?.state ?? 'open', left: p?.left ?? 0, here: route.name === id }
  }),
)
const open = ref(false)
const at = computed(() => stops.value.findIndex((s) => s.here))
const first = computed(() => Math.min(Math.max(0, at.value - 1), stops.value.length - 3))
watch(
  () => route.name,
  () => (open.value = false),
)
function word(s: { state: string; left: number }): string {
  return s.left > 0 && s.state !== 'done' ? t('ui.left', { count: s.left }) : t('state.' + s.state)
}
</script>

<template>
  <nav class="rail" :class="{ all: open }" :aria-label="t('ui.stations')">
    <RouterLink
      v-for="(s, i) in stops"
      :key="s.id"
      :to="{ name: s.id }"
      class="stop"
      :class="[s.state, { here: s.here, next: store.status?.at === s.id, near: i >= first && i < first + 3 }]"
      :aria-current="s.here ? 'step' : undefined"
      :data-testid="'station-' + s.id"
    >
      <span class="lines" aria-hidden="true"><i class="a" /><i class="b" /></span>
      <svg class="nut" viewBox="0 0 48 44" width="48" height="44" aria-hidden="true">
        <path d="M13 2h22l11 20-11 20H13L2 22z" />
        <path v-if="s.state === 'done'" class="tick" d="M15 22.5l6.5 6.5L34 16" />
        <path v-else-if="s.state === 'not_needed'" class="tick" d="M16 22h16" />
        <text v-else x="24" y="28.5" text-anchor="middle">{{ s.n }}</text>
      </svg>
      <span class="name">{{ t('station.' + s.id) }}</span>
      <span class="state">{{ word(s) }}</span>
    </RouterLink>
    <button type="button" class="tap bare more" :aria-expanded="open" data-testid="stations-all" @click="open = !open">
      {{ t('ui.all_stations') }}
    </button>
  </nav>
</template>

<style scoped>
.rail {
  display: grid;
  grid-template-columns: repeat(8, 1fr);
  padding: 6px 12px 8px;
}
.stop {
  position: relative;
  display: flex;
  flex-direction: column;
  align-items: center;
  text-decoration: none;
  color: var(--ink);
  min-height: 84px;
  padding-top: 2px;
}
.lines {
  position: absolute;
  left: 0;
  right: 0;
  top: 17px;
  height: 14px;
}
.lines i {
  position: absolute;
  left: 0;
  right: 0;
  border-top: 2px solid var(--rule);
}
.lines .b {
  top: 10px;
  border-top: 2px dashed var(--rule);
}
.done .lines .a,
.started .lines .a {
  border-top: 5px solid var(--a);
  top: -1px;
}
.done .lines .b {
  border-top: 5px dashed var(--b);
}
.nut {
  position: relative;
}
.nut path:first-child {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}
.nut text {
  font-size: 19px;
  font-weight: 600;
}
.done .nut path:first-child {
  fill: var(--ink);
}
.not_needed .nut path:first-child {
  fill: var(--paper);
  stroke: var(--rule);
}
.here .nut path:first-child {
  stroke-width: 3.5;
  fill: var(--brass);
}
.tick {
  fill: none;
  stroke: var(--sheet);
  stroke-width: 4;
}
.not_needed .tick {
  stroke: var(--ink-2);
}
.here .tick {
  stroke: #12323c;
}
.here .nut text {
  fill: #12323c;
}
.name {
  font-weight: 600;
  font-size: 16px;
  line-height: 1.15;
  text-align: center;
}
.here .name {
  border-bottom: 3px double var(--ink);
}
.state {
  font-size: 14px;
  color: var(--ink-2);
  text-align: center;
}
.more {
  display: none;
}
@media (max-width: 620px) {
  .rail {
    position: relative;
    grid-template-columns: repeat(3, minmax(0, 1fr)) 64px;
    padding: 2px 6px;
  }
  .stop {
    display: none;
    min-height: 56px;
  }
  .stop.near {
    display: flex;
  }
  .nut {
    width: 34px;
    height: 31px;
  }
  .lines {
    top: 11px;
    height: 12px;
  }
  .state {
    display: none;
  }
  .name {
    font-size: 14px;
  }
  .more {
    display: inline-flex;
    padding: 2px;
    font-size: 14px;
    line-height: 1.1;
    text-align: center;
  }
  .all {
    grid-template-columns: 1fr;
  }
  .all .stop {
    display: flex;
    flex-direction: row;
    gap: 12px;
    min-height: 48px;
    border-bottom: 1px solid var(--rule-soft);
  }
  .all .lines {
    display: none;
  }
  .all .name {
    font-size: 17px;
  }
  .all .state {
    display: inline;
    margin-left: auto;
  }
}
</style>
