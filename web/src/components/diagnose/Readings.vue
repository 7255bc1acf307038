<script setup lang="ts">
import { ref } from 'vue'
import Fig from '@/components/Fig.vue'
import NumField from '@/components/NumField.vue'
import TakeLive from '@/components/instruments/TakeLive.vue'
import { useLatest } from '@/lib/latest'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Force and travel pairs, assist exhausted. */
type Pair = { pedal_force_n: number; travel_mm: number }
const props = defineProps<{ pairs: Pair[] }>()
const emit = defineEmits<{ change: [Pair[]] }>()
const job = useJob()
const force = ref<number | null>(null)
const travel = ref<number | null>(null)
const { now: taken, set } = useLatest(
  () => props.pairs,
  (v) => emit('change', v),
)
function add() {
  const next = [...taken.value, { pedal_force_n: force.value!, travel_mm: travel.value! }]
  set(next.sort((a, b) => a.pedal_force_n - b.pedal_force_n))
  force.value = travel.value = null
}
</script>

<template>
  <div>
    <p class="small">{{ t('test_how.force_travel') }}</p>
    <form class="row read" @submit.prevent="force != null && travel != null && add()">
      <NumField v-model="force" name="n" :bound="job.pressed" :label="t('ui.force')" testid="read-force" />
      <NumField v-model="travel" name="mm" bound="hold.travel_mm" :label="t('ui.travel')" testid="read-travel" />
      <TakeLive kind="force" @take="(v) => (force = Math.round(v))" />
      <TakeLive kind="travel" @take="(v) => (travel = Math.round(10 * v) / 10)" />
      <button
        class="tap main"
        :disabled="force == null || travel == null"
        data-testid="read-add"
        :aria-label="t('ui.save_of', { what: t('test.force_travel') })"
      >
        {{ t('ui.take_reading') }}
      </button>
    </form>
    <ul class="row list">
      <li v-for="(p, i) in taken" :key="i" class="row">
        <Fig name="n" :value="p.pedal_force_n" /> → <Fig name="mm" :value="p.travel_mm" />
        <button
          type="button"
          class="tap bare"
          :aria-label="t('ui.remove')"
          @click="set(taken.filter((_, k) => k !== i))"
        >
          ✕
        </button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.read {
  align-items: flex-end;
  margin: 6px 0;
}
.read > :not(button) {
  flex: 1 1 180px;
}
.list {
  list-style: none;
  padding: 0;
  margin: 6px 0 0;
  gap: 18px;
}
</style>
