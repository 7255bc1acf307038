<script setup lang="ts">
import { computed, ref } from 'vue'
import FoldAway from '@/components/FoldAway.vue'
import NumField from '@/components/NumField.vue'
import { act, bay, type Act } from '@/lib/practice'
import { actName, placeName } from '@/lib/practicewords'
import { t, wheels } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Everything hands can do here, by where they are: tests, the work's steps, the bleeders, the reservoir, the last look. */
const store = useJob()
const offer = computed(() => bay.view!.offer)
const list = (what: 'test' | 'read', ids: readonly string[]): Act[] => ids.map((id) => ({ do: what, id }))
const wheelIds = computed(() => store.job?.intake.system?.wheels.map((w) => w.id) ?? [])
const powered = computed(() => offer.value.mends.includes('supply:'))
/** Which wheel is stood at: tapped in the drawing, or here. */
const wheel = defineModel<string>('wheel', { default: '' })
const n = ref(5)
const nm = ref<Record<string, number | null>>({})
const slack = ref<number | null>(9)
const at = computed(() => wheel.value || wheelIds.value[0] || '')
const units = computed<Act[]>(() =>
  ['master_cylinder', ...(powered.value ? ['booster'] : [])].map((id) => ({ do: 'unit', id })),
)
</script>

<template>
  <div>
    <FoldAway :title="t('doing.tests')">
      <div class="row">
        <button
          v-for="a in list('test', offer.tests)"
          :key="a.id"
          type="button"
          class="tap"
          :disabled="bay.busy"
          :data-testid="'do-test-' + a.id"
          @click="act(a)"
        >
          {{ actName(a) }}
        </button>
      </div>
    </FoldAway>
    <FoldAway :title="t('doing.work')" :line="t('doing.work_note')">
      <div class="row">
        <button v-for="a in units" :key="a.id" type="button" class="tap" :disabled="bay.busy" @click="act(a)">
          {{ actName(a) }}
        </button>
        <button type="button" class="tap" :disabled="bay.busy" @click="act({ do: 'bench', n: 12 })">
          {{ t('doing.bench', { n: 12 }) }}
        </button>
      </div>
      <p v-for="x in offer.steps" :key="x.id" class="row step">
        <button
          type="button"
          class="tap"
          :disabled="bay.busy"
          :data-testid="'do-step-' + x.id"
          @click="act({ do: 'step', id: x.id, nm: x.torque ? (nm[x.id] ?? 0) : 0 })"
        >
          {{ actName({ do: 'step', id: x.id }) }}
        </button>
        <NumField
          v-if="x.torque"
          :model-value="nm[x.id] ?? null"
          name="nm"
          :label="t('doing.torque')"
          :of="actName({ do: 'step', id: x.id })"
          :min="offer.bounds.nm[0]"
          :max="offer.bounds.nm[1]"
          @update:model-value="(v) => (nm[x.id] = v)"
        />
      </p>
    </FoldAway>
    <FoldAway :title="t('doing.bleeders')" :open="!!wheel">
      <div class="row" role="group" :aria-label="t('ui.wheel')">
        <button
          v-for="w in wheelIds"
          :key="w"
          type="button"
          class="tap"
          :aria-pressed="at === w"
          :data-testid="'bleeder-' + w"
          @click="wheel = w"
        >
          {{ wheels(w) }}
        </button>
      </div>
      <div class="row">
        <NumField
          v-model="n"
          name="plain"
          unitless
          :label="t('doing.strokes_n')"
          :min="offer.bounds.strokes[0]"
          :max="offer.bounds.strokes[1]"
        />
        <button
          type="button"
          class="tap main"
          :disabled="bay.busy"
          data-testid="do-stroke"
          @click="act({ do: 'stroke', at, n: n ?? 1 })"
        >
          {{ t('doing.stroke', { n: n ?? 1, at: wheels(at) }) }}
        </button>
        <button type="button" class="tap" :disabled="bay.busy" @click="act({ do: 'draw', at, value: 40 })">
          {{ t('doing.draw', { at: wheels(at) }) }}
        </button>
        <button type="button" class="tap" :disabled="bay.busy" @click="act({ do: 'push', at, value: 40 })">
          {{ t('doing.push', { at: wheels(at) }) }}
        </button>
      </div>
      <div class="row">
        <NumField
          v-model="slack"
          name="nm"
          :label="t('doing.torque')"
          :of="t('doing.close')"
          :min="offer.bounds.nm[0]"
          :max="offer.bounds.nm[1]"
        />
        <button type="button" class="tap" :disabled="bay.busy" @click="act({ do: 'close', nm: slack ?? 0 })">
          {{ t('doing.close') }}
        </button>
        <button type="button" class="tap" :disabled="bay.busy" @click="act({ do: 'wheels_off' })">
          {{ t('doing.wheels_off') }}
        </button>
        <button type="button" class="tap" :disabled="bay.busy" @click="act({ do: 'routine' })">
          {{ t('doing.routine') }}
        </button>
      </div>
    </FoldAway>
    <FoldAway :title="t('doing.reservoir')">
      <div class="row">
        <button type="button" class="tap" :disabled="bay.busy" data-testid="do-fill" @click="act({ do: 'fill' })">
          {{ t('doing.fill') }}
        </button>
        <button type="button" class="tap" :disabled="bay.busy" @click="act({ do: 'fill', wrong: true })">
          {{ t('doing.fill_other') }}
        </button>
        <button type="button" class="tap" :disabled="bay.busy" @click="act({ do: 'empty' })">
          {{ t('doing.empty') }}
        </button>
        <button type="button" class="tap" :disabled="bay.busy" @click="act({ do: 'engine', wrong: true })">
          {{ t('doing.engine_off') }}
        </button>
        <button type="button" class="tap" :disabled="bay.busy" @click="act({ do: 'engine' })">
          {{ t('doing.engine_on') }}
        </button>
      </div>
    </FoldAway>
    <FoldAway :title="t('doing.repairs')">
      <div class="row">
        <button
          v-for="m in offer.mends"
          :key="m"
          type="button"
          class="tap"
          :disabled="bay.busy"
          @click="act({ do: 'mend', places: [m] })"
        >
          {{ placeName(m) }}
        </button>
      </div>
    </FoldAway>
    <FoldAway :title="t('doing.last_look')">
      <div class="row">
        <button
          v-for="a in list('read', offer.reads)"
          :key="a.id"
          type="button"
          class="tap"
          :disabled="bay.busy"
          :data-testid="'do-read-' + a.id"
          @click="act(a)"
        >
          {{ actName(a) }}
        </button>
      </div>
    </FoldAway>
  </div>
</template>

<style scoped>
.row {
  gap: 6px;
  margin-bottom: 6px;
}
.step {
  justify-content: space-between;
  border-bottom: 1px solid var(--rule-soft);
  margin: 0;
}
.step .tap {
  flex: 1 1 200px;
  justify-content: flex-start;
  text-align: left;
}
</style>
