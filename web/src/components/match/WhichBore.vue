<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import StateMark from '@/components/StateMark.vue'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** Every standard bore on this vehicle, drawn to scale: which meets the limits, and what limits the others. */
const props = defineProps<{ bores: Schemas['MatchBoreChoice'][]; limits: Schemas['MatchLimits'] }>()
const session = useSession()
const note = computed(() =>
  say(
    'ui.which_bore_note',
    { limit_mpa: props.limits.mpa, travel_mm: props.limits.travel_mm, force_n: props.limits.force_n },
    session.pref,
  ),
)
const none = computed(() => !props.bores.some((b) => b.fits))
</script>

<template>
  <div data-testid="bores">
    <p class="small">{{ note }}</p>
    <p v-if="none" class="caution">{{ t('ui.no_bore') }}</p>
    <ul>
      <li v-for="b in bores" :key="b.name" :class="{ fits: b.fits, present: b.present }">
        <svg viewBox="0 0 40 40" width="40" height="40" aria-hidden="true">
          <circle cx="20" cy="20" :r="b.mm * 0.5" />
        </svg>
        <strong class="fig name">{{ b.name }}</strong>
        <StateMark :state="b.fits ? 'same' : 'does_not_fit'" />
        <span>
          {{ b.fits ? '' : b.broken.map((x) => t('bore_limit.' + x)).join(', ') }}
          <em v-if="b.why">{{ t('bore_why.' + b.why) }}</em>
          <em v-if="b.measured">{{ t('ui.bore_measured') }}</em>
          <span class="small fig">
            <template v-if="b.force_ratio != null"
              >{{ t('ui.bore_foot', { ratio: b.force_ratio.toFixed(2) }) }}, </template
            >{{ t('ui.bore_volume', { ratio: b.volume_ratio.toFixed(2) }) }}
          </span>
        </span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 8px 0 0;
  columns: 2 320px;
  column-gap: 28px;
}
li {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 3px 0;
  break-inside: avoid;
}
.name {
  min-width: 82px;
}
svg {
  flex: none;
}
li .small {
  display: block;
}
circle {
  fill: none;
  stroke: var(--rule);
  stroke-width: 2;
}
.fits circle {
  stroke: var(--a);
  stroke-width: 3;
}
.present {
  border-left: 4px double var(--ink);
  padding-left: 6px;
}
em {
  font-style: normal;
  font-weight: 600;
}
</style>
