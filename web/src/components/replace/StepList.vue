<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import Fig from '@/components/Fig.vue'
import { stepName } from '@/lib/plan'
import { timeText } from '@/lib/when'
import { t } from '@/lib/words'

/** The plan around the step in hand: what is next, what is done. A step in reach can be taken in hand or, done, taken back. */
const props = defineProps<{
  steps: Schemas['PlanStep'][]
  ticks: Record<string, Schemas['JobTick'] | undefined>
  done: (id: string) => boolean
  hand: string
  blocked: Record<string, string[]>
  /** Done steps whose part can have come off once more. */
  again: Record<string, unknown>
}>()
defineEmits<{ take: [string]; back: [string]; again: [string] }>()
const open = ref(false)
const numbered = computed(() => props.steps.map((s, i) => ({ s, n: i + 1 })))
const coming = computed(() => numbered.value.filter((x) => !props.done(x.s.id) && x.s.id !== props.hand))
const over = computed(() => numbered.value.filter((x) => props.done(x.s.id)))
const time = timeText
</script>

<template>
  <section v-if="coming.length" class="field">
    <header>
      <h2>{{ t('ui.then') }}</h2>
      <button
        v-if="coming.length > 4"
        type="button"
        class="tap bare"
        :aria-expanded="open"
        data-testid="all-steps"
        @click="open = !open"
      >
        {{ t('ui.all_steps') }} {{ coming.length }}
      </button>
    </header>
    <ol>
      <li v-for="x in open ? coming : coming.slice(0, 4)" :key="x.s.id">
        <button
          type="button"
          class="line"
          :class="{ blocked: blocked[x.s.id]?.length }"
          :data-testid="'take-' + x.s.id"
          @click="$emit('take', x.s.id)"
        >
          <span class="fig n">{{ x.n }}</span>
          <span>{{ stepName(x.s) }}</span>
          <span v-if="x.s.gate" class="small">{{ t('ui.gate') }}</span>
        </button>
      </li>
    </ol>
  </section>
  <details v-if="over.length" class="field" data-testid="done-steps">
    <summary>{{ t('ui.done_steps', { count: over.length }) }}</summary>
    <ol>
      <li v-for="x in over" :key="x.s.id" class="over" :data-testid="'done-' + x.s.id">
        <span>
          <span class="fig n">{{ x.n }}</span> {{ stepName(x.s) }}
          <span class="small">
            <template v-if="ticks[x.s.id]?.not_here">{{ t('ui.not_here') }}: {{ ticks[x.s.id]?.not_here }}, </template>
            <Fig v-if="ticks[x.s.id]?.torque_nm" name="nm" :value="ticks[x.s.id]!.torque_nm!" />
            <template v-if="ticks[x.s.id]?.by_hand">{{ t('ui.by_hand') }}, </template>
            <template v-if="ticks[x.s.id]?.trained"
              >{{ ticks[x.s.id]?.volts }} V, {{ ticks[x.s.id]?.trained }},
            </template>
            {{ ticks[x.s.id]?.by }}, {{ time(ticks[x.s.id]?.at ?? '') }}
          </span>
        </span>
        <span class="row">
          <button
            v-if="again[x.s.id]"
            type="button"
            class="tap bare"
            :data-testid="'again-' + x.s.id"
            :aria-label="`${t('ui.came_off_again')}: ${stepName(x.s)}`"
            @click="$emit('again', x.s.id)"
          >
            {{ t('ui.came_off_again') }}
          </button>
          <button
            type="button"
            class="tap bare"
            :data-testid="'back-' + x.s.id"
            :aria-label="`${t('ui.undo_step')}: ${stepName(x.s)}`"
            @click="$emit('back', x.s.id)"
          >
            {{ t('ui.undo_step') }}
          </button>
        </span>
      </li>
    </ol>
  </details>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
.line {
  display: flex;
  gap: 12px;
  width: 100%;
  min-height: 48px;
  align-items: center;
  text-align: left;
  background: none;
  border: 0;
  border-top: 1px solid var(--rule-soft);
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}
.blocked {
  color: var(--ink-2);
}
.n {
  min-width: 28px;
  font-weight: 600;
}
.over {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 10px;
  align-items: center;
}
summary {
  min-height: 48px;
  display: flex;
  align-items: center;
  font-weight: 600;
  cursor: pointer;
}
</style>
