<script setup lang="ts">
import { money } from '@/lib/units'
import { useJob } from '@/stores/job'
import { computed } from 'vue'
import type { Schemas, Unit } from '@/api/client'
import CounterPrice from '@/components/match/CounterPrice.vue'
import OutlineOver from '@/components/match/OutlineOver.vue'
import StateMark from '@/components/StateMark.vue'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The unit looked at: what differs in words, worst first, its outline over the old one's, its price. */
const props = defineProps<{ c: Schemas['JobCandidateView']; old: Unit }>()
const session = useSession()
const order = ['does_not_fit', 'unknown', 'changes_pedal', 'fits_with', 'same']
const points = computed(() =>
  [...props.c.points]
    .filter((p) => p.verdict !== 'same')
    .sort((a, b) => order.indexOf(a.verdict) - order.indexOf(b.verdict)),
)
function spec(p: Schemas['MatchPoint']): Record<string, unknown> {
  const out: Record<string, unknown> = { ...p.with }
  // Words of the trade, not ids, among the figures.
  for (const k of ['old', 'new', 'value', 'position'])
    if (typeof out[k] === 'string' && /^[a-z_]+$/.test(out[k] as string)) out[k] = t('spec.' + out[k])
  return out
}
const currency = useJob().dress?.settings?.currency
</script>

<template>
  <article data-testid="unit-shown">
    <h3>
      {{ c.unit.maker }} {{ c.unit.number }}
      <span class="small">{{ t('spec.' + (c.unit.condition || 'new')) }}</span>
    </h3>
    <OutlineOver v-if="c.unit.bore_mm" :old="old" :unit="c.unit" :points="c.points" />
    <ul class="points">
      <li v-for="p in points" :key="p.id" class="row">
        <StateMark :state="p.verdict" />
        <span
          ><strong>{{ t('point.' + p.id) }}</strong> <span class="small">{{ t('verdict.' + p.verdict) }}.</span>
          {{ say(p.code, spec(p), session.pref) }}</span
        >
      </li>
      <li v-if="!points.length">{{ t('ui.no_difference') }}</li>
    </ul>
    <p class="small fig">
      {{ money(c.unit.price ?? 0, currency) }} + {{ money(c.unit.core ?? 0, currency) }} {{ t('ui.core') }} ·
      {{ t('ui.worth', { n: c.worth.expected.toFixed(0) }) }}{{ c.worth.core_back ? ', ' + t('ui.worth_core') : '' }}
    </p>
    <CounterPrice v-if="c.unit.number" :key="c.unit.id" :number="c.unit.number" />
  </article>
</template>

<style scoped>
.points {
  list-style: none;
  padding: 0;
  margin: 6px 0 0;
}
.points li {
  flex-wrap: nowrap;
  align-items: flex-start;
  padding: 3px 0;
}
</style>
