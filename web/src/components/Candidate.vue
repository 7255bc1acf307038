<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '@/api/client'
import CounterPrice from './CounterPrice.vue'
import Fig from './Fig.vue'
import StateMark from './StateMark.vue'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** One unit from the shelf against the old one, point by point. */
const props = defineProps<{ c: Schemas['JobCandidateView']; shown: boolean }>()
defineEmits<{ choose: []; show: [] }>()
const session = useSession()
const open = ref(false)
const order = ['does_not_fit', 'unknown', 'changes_pedal', 'fits_with', 'same']
const points = () => [...props.c.points].sort((a, b) => order.indexOf(a.verdict) - order.indexOf(b.verdict))
function spec(p: Schemas['MatchPoint']): Record<string, unknown> {
  const out: Record<string, unknown> = { ...p.with }
  // Words of the trade, not ids, among the figures.
  for (const k of ['old', 'new', 'value', 'position'])
    if (typeof out[k] === 'string' && /^[a-z_]+$/.test(out[k] as string)) out[k] = t('spec.' + out[k])
  return out
}
</script>

<template>
  <article class="unit" :class="{ chosen: c.chosen }" :data-testid="'unit-' + c.unit.id">
    <div class="row spread">
      <div>
        <h3>{{ c.unit.maker }} {{ c.unit.number }}</h3>
        <span class="small fig"
          >{{ t('spec.' + (c.unit.condition || 'new')) }} ·
          <Fig v-if="c.unit.bore_mm" name="mm" :value="c.unit.bore_mm" />
          <template v-else-if="c.unit.booster?.shell_mm"><Fig name="mm" :value="c.unit.booster.shell_mm" /></template> ·
          {{ (c.unit.price ?? 0).toFixed(0) }} + {{ (c.unit.core ?? 0).toFixed(0) }} {{ t('ui.core') }} ·
          {{ t('ui.worth', { n: c.worth.expected.toFixed(0) })
          }}{{ c.worth.core_back ? ', ' + t('ui.worth_core') : '' }}</span
        >
      </div>
      <div class="row">
        <strong class="row verdict" :class="c.verdict" :data-testid="'verdict-' + c.unit.id"
          ><StateMark :state="c.verdict" /> {{ t('unit_verdict.' + c.verdict) }}</strong
        >
        <button type="button" class="tap" :aria-pressed="shown" @click="$emit('show')">{{ t('ui.pedal') }}</button>
        <button
          type="button"
          class="tap"
          :class="{ main: c.verdict !== 'does_not_fit' && !c.chosen }"
          :disabled="c.verdict === 'does_not_fit'"
          :aria-pressed="c.chosen"
          :data-testid="'choose-' + c.unit.id"
          @click="$emit('choose')"
        >
          {{ t(c.chosen ? 'ui.chosen' : 'ui.choose') }}
        </button>
      </div>
    </div>
    <ul class="points">
      <li v-for="p in points().filter((x) => open || x.verdict !== 'same')" :key="p.id" class="row">
        <StateMark :state="p.verdict" />
        <span
          ><strong>{{ t('point.' + p.id) }}</strong> <span class="small">{{ t('verdict.' + p.verdict) }}.</span>
          {{ say(p.code, spec(p), session.pref) }}</span
        >
      </li>
    </ul>
    <CounterPrice v-if="c.unit.number" :number="c.unit.number" />
    <button type="button" class="tap bare more" :aria-expanded="open" @click="open = !open">
      {{ t(open ? 'ui.only_differences' : 'ui.all_points', { count: c.points.length }) }}
    </button>
  </article>
</template>

<style scoped>
.unit {
  border-top: 1px solid var(--rule);
  padding: 10px 0;
}
.chosen {
  border-top: 4px double var(--ink);
}
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
.does_not_fit {
  color: var(--bad);
}
.same {
  color: var(--ok);
}
.more {
  min-height: 40px;
  padding-left: 0;
  font-size: 15px;
}
</style>
