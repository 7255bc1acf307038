<script setup lang="ts">
import { computed } from 'vue'
import Fig from './Fig.vue'
import { powered } from '@/lib/assist'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useTwin } from '@/stores/twin'

/** The foot, the engine, the circuits and the air of the twin. */
const job = useJob()
const twin = useTwin()
const circuits = computed(() => job.system?.circuits.map((c) => c.id) ?? [])
const assisted = computed(() => powered(job.assist))
function engine() {
  twin.assist = !twin.assist
  void twin.refresh()
}
function air(circuit: string, by: number) {
  twin.air = { ...twin.air, [circuit]: Math.max(0, Math.min(40, (twin.air[circuit] ?? 0) + by)) }
  void twin.refresh()
}
</script>

<template>
  <div class="foot">
    <label for="twin-foot">{{ t(job.isTrailer ? 'ui.twin_coupler' : 'ui.twin_foot') }}</label>
    <input
      id="twin-foot"
      v-model.number="twin.step"
      type="range"
      min="0"
      :max="twin.last"
      step="1"
      data-testid="twin-foot"
    />
    <strong class="force"><Fig name="n" :value="twin.now?.force_n" /></strong>
  </div>
  <div class="row">
    <button
      v-if="assisted"
      type="button"
      class="tap engine"
      :aria-pressed="twin.assist"
      data-testid="twin-engine"
      @click="engine"
    >
      {{ t(twin.assist ? 'ui.twin_engine_on' : 'ui.twin_engine_off') }}
    </button>
    <button
      v-for="c in circuits"
      :key="c"
      type="button"
      class="tap"
      :aria-pressed="twin.failed.includes(c)"
      :data-testid="'twin-fail-' + c"
      @click="twin.toggle(c)"
    >
      {{ t('ui.twin_fail', { id: c }) }}
    </button>
    <span v-for="c in circuits" :key="'air' + c" class="air">
      <button type="button" class="tap" :aria-label="t('ui.twin_air_less', { id: c })" @click="air(c, -1)">−</button>
      <span class="fig">{{ t('ui.twin_air', { id: c, n: twin.air[c] ?? 0 }) }}</span>
      <button
        type="button"
        class="tap"
        :aria-label="t('ui.twin_air_more', { id: c })"
        :data-testid="'twin-air-' + c"
        @click="air(c, 1)"
      >
        +
      </button>
    </span>
    <button v-if="twin.tried" type="button" class="tap" @click="twin.reset()">{{ t('ui.twin_reset') }}</button>
  </div>
</template>

<style scoped>
.foot {
  display: grid;
  grid-template-columns: auto 1fr 92px;
  gap: 14px;
  align-items: center;
  margin: 8px 0;
}
input[type='range'] {
  width: 100%;
  height: var(--touch);
  accent-color: var(--a);
}
.force {
  font-size: 24px;
  text-align: right;
}
.engine {
  min-width: 15em; /* either of its words */
}
.air {
  display: inline-flex;
  align-items: center;
  gap: 8px;
}
.air .tap {
  padding: 6px 0;
  min-width: var(--touch);
}
.row {
  margin-bottom: 10px;
}
</style>
