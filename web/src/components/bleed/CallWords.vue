<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { t, wheels } from '@/lib/words'

/** The call as it stands: a big word, a colour and a shape each, and what to do. */
const props = defineProps<{ call: Schemas['BleedCalling']; who: 'bleeder' | 'seat'; pumps: number }>()
/** A shape for each: two bars rest, chevrons pump, a block holds, an arrow down follows, an octagon stops. */
const shapes: Record<string, string> = {
  idle: 'M20 14v32M40 14v32',
  up: 'M30 46V14M16 28l14-14 14 14',
  pump: 'M14 16l16 14 16-14M14 32l16 14 16-14',
  hold: 'M12 12h36v36H12z',
  holding: 'M12 12h36v36H12zM20 30l8 8 14-16',
  open: 'M30 10v34M14 30l16 18 16-18',
  closed: 'M10 30h40M30 14v32',
  lifted: 'M14 14l32 32M46 14L14 46',
  stop: 'M20 6h20l14 14v20L40 54H20L6 40V20z',
  fill: 'M16 12v34h28V12M16 26h28',
}
const tone = computed(
  () =>
    ({
      pump: 'brass',
      hold: 'brass',
      holding: 'ok',
      open: 'go',
      closed: 'calm',
      stop: 'bad',
      lifted: 'bad',
      fill: 'brass',
    })[props.call.at as string] ?? 'calm',
)
</script>

<template>
  <div class="call" :class="tone" role="status" aria-live="assertive" data-testid="call" :data-at="call.at">
    <svg viewBox="0 0 60 60" width="84" height="84" aria-hidden="true">
      <path :d="shapes[call.at] ?? shapes.idle" />
    </svg>
    <div>
      <p class="word">{{ t('call.' + call.at, { n: pumps }) }}</p>
      <p class="do">{{ t(`call_do.${who}.${call.at}`) }}</p>
      <p class="small fig">
        {{ wheels(call.wheel) }} · {{ t('ui.openings', { n: call.openings }) }}
        <template v-if="call.lost_openings"> · {{ t('ui.openings_lost', { n: call.lost_openings }) }}</template>
      </p>
    </div>
  </div>
</template>

<style scoped>
.call {
  display: flex;
  gap: 18px;
  align-items: center;
  border: 3px solid var(--ink);
  padding: 10px 18px;
  min-height: 190px;
}
path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 5;
  stroke-linejoin: round;
}
p {
  margin: 0;
}
.word {
  font-size: clamp(34px, 6vw, 60px);
  font-weight: 700;
  line-height: 1.05;
}
.do {
  font-size: 20px;
  min-height: 2.4em;
}
.brass {
  background: var(--brass);
  color: #12323c;
}
.brass path {
  stroke: #12323c;
}
.go {
  border-width: 8px;
}
.ok {
  border-style: double;
  border-width: 8px;
}
.bad {
  border-color: var(--bad);
  border-width: 8px;
}
.bad path {
  stroke: var(--bad);
}
</style>
