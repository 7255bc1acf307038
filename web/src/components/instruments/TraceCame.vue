<script setup lang="ts">
import type { Schemas } from '@/api/client'
import Fig from '@/components/Fig.vue'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** What a trace comes to, each figure with its interval. */
defineProps<{ came: Schemas['TraceCame'] }>()
const session = useSession()
const said = (what: string, figures: Record<string, unknown>) => say('instrument.' + what, figures, session.pref)
</script>

<template>
  <span v-if="came.sink" data-testid="trace-sink">
    <Fig name="mm" :value="came.sink.mm" /> (<Fig name="mm" :value="came.sink.low_mm" />–<Fig
      name="mm"
      :value="came.sink.high_mm"
    />) / {{ came.sink.seconds }} s
  </span>
  <template v-if="came.under">
    <span v-if="came.under.rises" class="bad" data-testid="trace-rises">{{ t('instrument.rises') }}</span>
    <span v-if="came.under.to_s" class="small">{{ t('instrument.under', came.under) }}</span>
    <span v-if="came.under.force_high_n" class="small" data-testid="trace-foot">{{
      said('foot_from_to', { low_n: came.under.force_low_n, high_n: came.under.force_high_n })
    }}</span>
    <span v-if="came.under.corrected_mm" class="small">{{
      said('drift_out', { moved_mm: came.under.corrected_mm })
    }}</span>
    <span v-if="came.under.floored_s" class="bad">{{ t('instrument.on_floor', { at_s: came.under.floored_s }) }}</span>
  </template>
  <span v-if="came.curve">{{ t('instrument.points', { n: came.curve.length }) }}</span>
  <span v-if="came.heights" data-testid="trace-pump">
    {{ t('ui.height_n', { n: 1 }) }} <Fig name="mm" :value="came.heights.first_mm" /> · {{ t('ui.height_n', { n: 4 }) }}
    <Fig name="mm" :value="came.heights.fourth_mm" />
  </span>
  <span v-if="came.reserve != null" data-testid="trace-reserve">{{
    t('instrument.reserve', { n: came.reserve })
  }}</span>
  <span v-if="came.slope && !came.sink" data-testid="trace-fall">
    {{ t('instrument.per_minute') }} <Fig name="kpa" :value="60 * came.slope.per_s" /> (<Fig
      name="kpa"
      :value="60 * came.slope.low"
    />–<Fig name="kpa" :value="60 * came.slope.high" />)
  </span>
  <template v-if="!came.slope">
    <span v-if="came.level">A <Fig name="mpa" :value="came.level.v" /></span>
    <span v-if="came.level_b">B <Fig name="mpa" :value="came.level_b.v" /></span>
  </template>
  <span v-if="came.balance" data-testid="trace-balance">
    A − B <Fig name="mpa" :value="came.balance.v" /> (<Fig name="mpa" :value="came.balance.low" />–<Fig
      name="mpa"
      :value="came.balance.high"
    />)
  </span>
  <span v-if="came.released" data-testid="trace-released">
    {{ t('instrument.released', { s: came.released.seconds }) }} <Fig name="mpa" :value="came.released.left.v" />
  </span>
</template>

<style scoped>
.bad {
  color: var(--bad);
}
</style>
