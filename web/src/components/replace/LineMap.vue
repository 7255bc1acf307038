<script setup lang="ts">
import type { Schemas } from '@/api/client'
import Fig from '@/components/Fig.vue'
import { t, wheels } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Which line goes where: old port, circuit, new port, and what is needed in between. */
defineProps<{ lines: Schemas['PlanLine'][] }>()
const store = useJob()
const first = (circuit: string) => circuit === store.system?.circuits[0]?.id
type Port = Schemas['MatchPort'] | undefined
const port = (position: string, p: Port) =>
  [t('point.port_' + position), p?.side ? t('spec.' + p.side) : '', p?.thread].filter(Boolean).join(', ')
</script>

<template>
  <section class="field" data-testid="line-map">
    <header>
      <h2>{{ t('ui.line_map') }}</h2>
      <span class="small">{{ t('ui.line_map_note') }}</span>
    </header>
    <ul>
      <li v-for="l in lines" :key="l.tag" :class="{ swapped: l.swapped }">
        <span class="fig tag">{{ l.tag }}</span>
        <span>{{ port(l.position, l.old) }}</span>
        <svg width="64" height="18" viewBox="0 0 64 18" aria-hidden="true">
          <path d="M2 9H52" :class="first(l.circuit) ? 'line-a' : 'line-b'" stroke-width="4" />
          <path d="M50 3l10 6-10 6" class="arrow" />
        </svg>
        <span>
          <strong v-if="l.new">{{ port(l.new.position, l.new) }}</strong>
          <template v-else>{{ t('ui.same_port') }}</template>
          <span v-if="l.circuit" class="small">
            {{ t('ui.circuit', { id: l.circuit }) }}: {{ wheels(l.wheels.join(', ')) }}</span
          >
        </span>
        <strong v-if="l.swapped" class="loud" role="alert">{{ t('ui.swapped') }}</strong>
        <strong v-if="l.how === 'none'" class="loud" role="alert">{{ t('ui.no_port') }}</strong>
        <span v-if="l.by_place && l.new?.thread" class="small">{{ t('ui.by_place') }}</span>
        <span v-if="l.fitting" class="need">
          {{ l.differs.map((d) => t('ui.differs_' + d)).join(', ') }}:
          {{
            l.fitting === 'turn'
              ? t('ui.turn_banjo')
              : l.fitting === 'adapter'
                ? `${t('ui.adapter')} ${l.old?.thread} → ${l.new?.thread}`
                : t('ui.line_to_make', { flare: t('ui.flare_' + l.flare) })
          }}
          <template v-if="l.fitting === 'line'">
            <template v-if="l.cut_mm">{{ t('ui.cut') }} <Fig name="mm" :value="l.cut_mm" /></template>
            <template v-else>{{ t('ui.measure_way') }}</template>
          </template>
        </span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  min-height: 44px;
  border-top: 1px solid var(--rule-soft);
}
.tag {
  font-size: 22px;
  font-weight: 600;
  border: 1.5px solid var(--ink);
  min-width: 34px;
  text-align: center;
}
.swapped {
  border: 2.5px solid var(--bad);
  padding: 4px 8px;
}
.loud {
  color: var(--bad);
  flex-basis: 100%;
}
.need {
  flex-basis: 100%;
}
.arrow {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2.5;
}
</style>
