<script setup lang="ts">
import { computed, ref } from 'vue'
import type { System } from '@/api/client'
import Choice from '@/components/Choice.vue'
import DateField from '@/components/DateField.vue'
import Faults from '@/components/Faults.vue'
import Fig from '@/components/Fig.vue'
import FoldAway from '@/components/FoldAway.vue'
import NumField from '@/components/NumField.vue'
import PairRail from '@/components/PairRail.vue'
import PedalPlot from '@/components/PedalPlot.vue'
import Schematic from '@/components/Schematic.vue'
import StateMark from '@/components/StateMark.vue'
import FigureBars from '@/components/shop/FigureBars.vue'
import Said from '@/components/terms/Said.vue'
import TrainDrawing from '@/components/terms/TrainDrawing.vue'
import { useSession } from '@/stores/session'

/** Every shared component in both themes, for whoever works on them; it is in no build that ships. */
const session = useSession()
const system = computed(() => session.vocabulary?.patterns[0]?.system as System | undefined)
const picked = ref<string | null>('a')
const number = ref<number | null>(27)
const day = ref('2026-11-25')
const states = ['ok', 'missing', 'failed', 'same', 'fits_with', 'changes_pedal', 'unknown', 'does_not_fit']
const options = ['a', 'b', 'c'].map((id) => ({ id, label: 'Choice ' + id }))
const trace = [0, 100, 200, 300].map((x) => ({ x, y: 20 + x / 6 }))
const problem = { code: 'problem.faults', faults: [{ path: '$.pedal.ratio', code: 'fault.missing' }] }
const bars = [
  { of: 'One', jobs: 12, value: 0.8 },
  { of: 'Two', jobs: 5, value: 0.3 },
]
</script>

<template>
  <div class="themes">
    <main v-for="theme in ['', 'night']" :key="theme" class="ground page" :class="theme">
      <h1>Components</h1>
      <p class="row">
        <button class="tap">tap</button><button class="tap main">main</button><button class="tap bare">bare</button>
        <button class="tap" aria-pressed="true">pressed</button><button class="tap" disabled>disabled</button>
      </p>
      <p class="row"><StateMark v-for="s in states" :key="s" :state="s" /></p>
      <p class="caution">caution</p>
      <Faults :problem="problem as never" />
      <Choice label="Choice" :value="picked" :options="options" clearable @pick="(v) => (picked = v)" />
      <NumField v-model="number" name="mm" label="NumField" :min="10" :max="60" />
      <DateField v-model="day" label="DateField" />
      <p>Fig <Fig name="mpa" :value="7.9" /> <Fig name="cm3" :value="500" /></p>
      <p><Said text="Measure the rod gap, then the bore of the master cylinder." /></p>
      <FoldAway title="FoldAway" line="one line of it" open><p>what folds</p></FoldAway>
      <FigureBars title="FigureBars" :rows="bars" :name="(x) => x" :text="(x) => Math.round(100 * x) + ' %'" />
      <PedalPlot :traces="[{ label: 'trace', style: 'thick', points: trace }]" :floor="120" />
      <Schematic v-if="system" :system="system" />
      <TrainDrawing lit="port" />
      <PairRail />
    </main>
  </div>
</template>

<style scoped>
.themes {
  display: grid;
  grid-template-columns: 1fr 1fr;
}
</style>
