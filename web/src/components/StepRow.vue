<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import RodGauge from './RodGauge.vue'
import TorqueEntry from './TorqueEntry.vue'
import Fig from './Fig.vue'
import { t } from '@/lib/words'

/** One step of the plan: what to do, with what, mind what; ticked with one tap. */
const props = defineProps<{
  step: Schemas['PlanStep']
  number: number
  tick: Schemas['JobTick'] | undefined
  blocked: string[]
  next: boolean
  torque: Schemas['JobTorqueRead'] | undefined
}>()
defineEmits<{ tick: [{ torque_nm?: number; rod?: Schemas['JobRod'] }]; untick: [] }>()
const done = computed(() => !!props.tick)
</script>

<template>
  <li
    class="step"
    :class="{ done, next, blocked: blocked.length && !done, gate: step.gate }"
    :data-testid="'step-' + step.id"
  >
    <button
      type="button"
      class="box"
      :aria-pressed="done"
      :aria-label="number + '. ' + t('step.' + step.id)"
      :disabled="!done && (blocked.length > 0 || !!step.measure)"
      :data-testid="'tick-' + step.id"
      @click="done ? $emit('untick') : $emit('tick', {})"
    >
      <svg viewBox="0 0 48 44" width="44" height="40" aria-hidden="true">
        <path d="M13 2h22l11 20-11 20H13L2 22z" class="hex" />
        <path v-if="done" d="M15 22.5l6.5 6.5L34 16" class="check" />
        <text v-else x="24" y="28" text-anchor="middle">{{ number }}</text>
      </svg>
    </button>
    <div class="text">
      <p class="what">
        {{ t('step.' + step.id) }}
        <span v-if="step.gate" class="small"> {{ t('ui.gate') }}</span>
      </p>
      <p v-if="step.tools.length" class="small">{{ step.tools.map((x) => t('tool.' + x)).join(', ') }}</p>
      <p v-if="blocked.length && !done" class="small why">
        {{ t('ui.first') }} {{ blocked.map((b) => t('step.' + b)).join('; ') }}
      </p>
      <template v-if="next || done || !blocked.length">
        <p v-for="c in next ? step.cautions : []" :key="c" class="caution">{{ t('caution.' + c) }}</p>
      </template>
      <TorqueEntry
        v-if="step.torque && next"
        :id="step.id"
        :low="step.torque.low_nm"
        :high="step.torque.high_nm"
        @tick="(v) => $emit('tick', { torque_nm: v })"
      />
      <p v-if="torque" :class="torque.verdict === 'ok' ? 'small' : 'problem'">
        <Fig name="nm" :value="torque.torque_nm" /> {{ t('torque.' + torque.verdict) }}
      </p>
      <RodGauge
        v-if="step.measure === 'pushrod' && (next || done)"
        :last="tick?.rod"
        :done="done"
        @tick="(rod) => $emit('tick', { rod })"
      />
      <p v-if="tick" class="small">
        {{ tick.by }}, {{ new Date(tick.at).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' }) }}
      </p>
    </div>
  </li>
</template>

<style scoped>
.step {
  display: grid;
  grid-template-columns: 56px 1fr;
  gap: 10px;
  padding: 8px 0;
  border-top: 1px solid var(--rule-soft);
}
.text {
  min-width: 0;
  display: grid;
  gap: 4px;
  align-content: center;
}
.box {
  background: none;
  border: 0;
  padding: 0;
  width: 56px;
  height: 52px;
  cursor: pointer;
}
.box:disabled {
  cursor: not-allowed;
}
.hex {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}
.next .hex {
  fill: var(--brass);
}
.next text {
  fill: #12323c;
}
.done .hex {
  fill: var(--ink);
}
.blocked .hex {
  stroke: var(--rule);
  stroke-dasharray: 5 4;
}
.check {
  stroke: var(--sheet);
  stroke-width: 4;
  fill: none;
}
.next .what {
  font-size: 21px;
  font-weight: 600;
  line-height: 1.25;
}
.done .what,
.blocked .what {
  color: var(--ink-2);
}
.why {
  color: var(--bad);
}
</style>
