<script setup lang="ts">
import { computed, ref } from 'vue'
import FoldAway from '@/components/FoldAway.vue'
import StateMark from '@/components/StateMark.vue'
import StepWait from '@/components/replace/StepWait.vue'
import type { BleedView } from '@/lib/bleeding'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** The steering side of a hydraulic booster: cycle by cycle until the level stays and the foam is gone. */
const props = defineProps<{ view: BleedView }>()
const store = useJob()
const vacuum = ref(false)
const seen = ref<string[]>([])
const toggle = (id: string) =>
  (seen.value = seen.value.includes(id) ? seen.value.filter((x) => x !== id) : [...seen.value, id])
const last = computed(() => props.view.steering.at(-1))
const how = computed(() => {
  const c = last.value
  if (!c) return ''
  const bad = [c.level_fell && 'ui.level_fell', c.foam && 'ui.foam_left', c.groan && 'ui.groan_left'].filter(Boolean)
  return bad.length ? bad.map((k) => t(k as string)).join(', ') : t('ui.cycle_good')
})
function cycle(good: boolean) {
  const has = (id: string) => !good && seen.value.includes(id)
  store.send('steering_cycle', {
    vacuum: vacuum.value,
    level_fell: has('level_fell'),
    foam: has('foam'),
    groan: has('groan'),
  })
  seen.value = []
}
</script>

<template>
  <FoldAway :title="t('ui.steering_bleed')" :open="!view.steering_good" :line="how" data-testid="steering-side">
    <p>{{ t('ui.steering_note') }}</p>
    <div class="row">
      <button type="button" class="tap" :aria-pressed="vacuum" @click="vacuum = !vacuum">
        {{ t('ui.steering_vacuum') }}
      </button>
      <StepWait v-if="!vacuum" clock="foam" />
    </div>
    <div class="row gap">
      <button
        v-for="id in ['level_fell', 'foam', 'groan']"
        :key="id"
        type="button"
        class="tap"
        :aria-pressed="seen.includes(id)"
        :data-testid="'cycle-' + id"
        @click="toggle(id)"
      >
        {{ t(id === 'level_fell' ? 'ui.level_fell' : `ui.${id}_left`) }}
      </button>
      <button type="button" class="tap" :disabled="!seen.length" data-testid="cycle-bad" @click="cycle(false)">
        {{ t('ui.cycle_done') }}
      </button>
      <button type="button" class="tap main" :disabled="!!seen.length" data-testid="cycle-good" @click="cycle(true)">
        {{ t('ui.cycle_good') }}
      </button>
    </div>
    <p v-if="last" class="row">
      <StateMark :state="view.steering_good ? 'ok' : 'missing'" />
      {{ t('ui.cycles_so_far', { n: view.steering.length, how }) }}
    </p>
  </FoldAway>
</template>

<style scoped>
.gap {
  margin-top: 10px;
}
</style>
