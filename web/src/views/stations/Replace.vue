<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import StepRow from '@/components/StepRow.vue'
import type { Schemas } from '@/api/client'
import { useChoices } from '@/lib/choices'
import { useStation } from '@/lib/station'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

const store = useJob()
const { view, problem } = useStation('replace')
const { choices, set } = useChoices()
const phases = computed(() => {
  const steps = view.value?.plan.steps ?? []
  return [...new Set(steps.map((s) => s.phase))].map((phase) => ({
    phase,
    steps: steps.map((s, i) => ({ s, n: i + 1 })).filter((x) => x.s.phase === phase),
  }))
})
const ticks = computed(() => store.job!.state.ticks as Record<string, Schemas['JobTick']>)
const done = computed(() => (view.value?.plan.steps.length ?? 0) - (view.value?.left ?? 0))
function tick(step: string, extra: { torque_nm?: number; rod?: Schemas['JobRod'] }) {
  store.send('tick', { step, done: true, ...extra })
}
const cylinder = computed(() => ['cylinder', 'both'].includes(choices.value.scope))
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <template v-if="view">
    <section class="field">
      <header>
        <h2>{{ t('scope.' + view.plan.scope) }}</h2>
        <span class="fig">{{ t('ui.steps_done', { done, all: view.plan.steps.length }) }}</span>
      </header>
      <p class="caution">{{ t('caution.safety') }}</p>
      <p v-if="view.plan.no_bleeding_why" class="caution gap" data-testid="no-bleeding">
        {{ t(view.plan.no_bleeding_why) }}
      </p>
      <div v-if="view.plan.needs_bleeding && cylinder" class="row gap">
        <Choice
          :label="t('ui.school_bench')"
          :value="choices.bench_on_vehicle ? 'vehicle' : 'bench'"
          :options="['bench', 'vehicle'].map((v) => ({ id: v, label: t('ui.bench_' + v) }))"
          @pick="(v) => set({ bench_on_vehicle: v === 'vehicle' })"
        />
        <Choice
          :label="t('ui.school_lines')"
          :value="choices.lines_loose ? 'loose' : 'snug'"
          :options="['snug', 'loose'].map((v) => ({ id: v, label: t('ui.lines_' + v) }))"
          @pick="(v) => set({ lines_loose: v === 'loose' })"
        />
      </div>
    </section>

    <section v-if="view.plan.lines.length" class="field" data-testid="line-map">
      <header>
        <h2>{{ t('ui.line_map') }}</h2>
        <span class="small">{{ t('ui.line_map_note') }}</span>
      </header>
      <table>
        <thead>
          <tr>
            <th>{{ t('ui.tag') }}</th>
            <th>{{ t('ui.port') }}</th>
            <th>{{ t('ui.thread') }}</th>
            <th>{{ t('ui.feeds') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in view.plan.lines" :key="l.tag">
            <td class="fig tag">{{ l.tag }}</td>
            <td>{{ t('point.port_' + l.position) }}</td>
            <td class="fig">{{ l.thread || '–' }}</td>
            <td>
              <svg width="46" height="12" aria-hidden="true">
                <path
                  d="M1 6H45"
                  :class="l.circuit === store.system?.circuits[0].id ? 'line-a' : 'line-b'"
                  stroke-width="4"
                />
              </svg>
              {{ t('ui.circuit', { id: l.circuit }) }}: {{ l.wheels.join(', ') }}
            </td>
          </tr>
        </tbody>
      </table>
    </section>

    <section v-for="p in phases" :key="p.phase" class="field">
      <header>
        <h2>{{ t('phase.' + p.phase) }}</h2>
      </header>
      <ol>
        <StepRow
          v-for="x in p.steps"
          :key="x.s.id"
          :step="x.s"
          :number="x.n"
          :tick="ticks[x.s.id]"
          :blocked="view.blocked[x.s.id] ?? []"
          :next="view.next === x.s.id"
          :torque="view.torque[x.s.id]"
          @tick="(e) => tick(x.s.id, e)"
          @untick="store.send('tick', { step: x.s.id, done: false })"
        />
      </ol>
    </section>
    <div class="row gap">
      <RouterLink v-if="view.plan.needs_bench" class="tap" :to="{ name: 'bench' }">{{ t('ui.go_bench') }}</RouterLink>
      <RouterLink v-if="view.plan.needs_bleeding" class="tap" :to="{ name: 'bleed' }">{{
        t('ui.go_bleed')
      }}</RouterLink>
      <RouterLink v-else class="tap main" :to="{ name: 'verify' }">{{ t('ui.go_verify') }}</RouterLink>
    </div>
  </template>
</template>

<style scoped>
ol {
  list-style: none;
  padding: 0;
  margin: 0;
}
.gap {
  margin-top: 12px;
}
.tag {
  font-weight: 600;
  font-size: 20px;
}
</style>
