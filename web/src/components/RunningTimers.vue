<script setup lang="ts">
import { computed, toRef } from 'vue'
import { clockText, useNow } from '@/lib/clock'
import { quiet, useRing } from '@/lib/ring'
import { isOver, ran, type Timer } from '@/lib/timer'
import { has, t } from '@/lib/words'

/** The timers that run, on whichever screen they were started; each can be stopped from here where it may be. */
const props = defineProps<{ timers: Timer[]; stop?: (of: string) => void }>()
const now = useNow()
useRing(toRef(props, 'timers'))
const name = (x: Timer) => {
  const about = has('test.' + x.about) ? t('test.' + x.about) : x.about
  return t('clock.' + x.clock, { about })
}
const shown = computed(() =>
  props.timers
    .filter((x) => !x.stopped_at)
    .map((x) => {
      const over = isOver(x, now.value)
      const left = x.seconds - ran(x, now.value)
      return { ...x, over, text: over || !x.seconds ? clockText(ran(x, now.value)) : clockText(Math.ceil(left)) }
    }),
)
</script>

<template>
  <ul v-if="shown.length" class="timers" data-testid="timers">
    <li v-for="x in shown" :key="x.id" :class="{ over: x.over }">
      <span class="fig n">{{ x.text }}</span>
      <span>
        {{ name(x) }}
        <strong v-if="x.over" role="alert">{{ t('ui.time_is_up') }}</strong>
        <span v-else class="small">{{ t(x.seconds ? 'ui.time_left' : 'ui.time_run') }}</span>
      </span>
      <button v-if="stop" type="button" class="tap" data-testid="timer-stop" @click="stop(x.id)">
        {{ t('ui.stop') }}
      </button>
    </li>
    <li v-if="stop" class="sound">
      <button type="button" class="tap bare" :aria-pressed="!quiet" data-testid="sound" @click="quiet = !quiet">
        {{ t(quiet ? 'ui.sound_off' : 'ui.sound_on') }}
      </button>
    </li>
  </ul>
</template>

<style scoped>
.timers {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  margin: 0 0 10px;
  padding: 0;
}
li {
  display: flex;
  gap: 10px;
  align-items: center;
  border: 1px solid var(--rule);
  border-left: 4px double var(--a);
  padding: 2px 10px;
  background: var(--sheet);
}
.over {
  border: 2px solid var(--warn);
  background: var(--warn-bg);
}
.n {
  font-size: 26px;
  font-weight: 600;
}
.sound {
  border: 0;
  background: none;
}
</style>
