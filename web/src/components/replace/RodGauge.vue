<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { answer } from '@/core/answer'
import Fig from '@/components/Fig.vue'
import NumField from '@/components/NumField.vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** The rod between the units, in section and to scale, with the gap worked out as it is typed. */
const props = defineProps<{ last: Schemas['JobRod'] | undefined; done: boolean; limits: Schemas['JobJointLimits'] }>()
const emit = defineEmits<{ tick: [Schemas['JobRod']] }>()
const store = useJob()
const rod = reactive({
  pocket_mm: props.last?.pocket_mm ?? store.job?.choices.unit?.pocket_mm ?? (null as number | null),
  gasket_mm: props.last?.gasket_mm ?? (0 as number | null),
  protrusion_mm: props.last?.protrusion_mm ?? (null as number | null),
  pitch_mm: props.last?.pitch_mm ?? (1 as number | null),
  target_mm: props.last?.target_mm ?? (props.limits.rod_aim_mm as number | null),
})
const vacuum = ref(props.last?.under_vacuum ?? false)
const out = ref<Schemas['JobPushrodOut'] | null>(null)
const full = computed(() => Object.values(rod).every((v) => v != null))
const body = computed(() => ({ ...rod, under_vacuum: vacuum.value }) as Schemas['JobRod'])
watch(
  body,
  async () => {
    out.value = null
    if (!full.value) return
    try {
      const params = { path: { id: store.job!.id } }
      out.value = await answer(store.job!.id, 'pushrod', body.value, () =>
        ask(api.POST('/api/jobs/{id}/pushrod', { params, body: body.value })),
      )
    } catch (e) {
      if (!(e instanceof Refused)) throw e
    }
  },
  { immediate: true },
)
const verdict = computed(() => (out.value ? 'rod.' + out.value.verdict : ''))
const scale = 9
const seat = computed(() => 70 + (rod.pocket_mm ?? 12) * scale)
const tip = computed(() => seat.value - (out.value?.rod.gap_mm ?? 1) * scale * 4)
</script>

<template>
  <div class="rod">
    <svg viewBox="0 0 420 120" role="img" :aria-label="t('ui.rod_drawing')">
      <path d="M70 12V108" class="face" />
      <text x="74" y="22">{{ t('ui.face') }}</text>
      <path :d="`M70 34H${seat}V86H70`" class="pocket" />
      <path :d="`M${seat} 34V86`" class="seat" />
      <path :d="`M10 60H${tip}`" class="stick" />
      <path
        v-if="out"
        :d="`M${Math.min(tip, seat)} 98H${Math.max(tip, seat)}M${tip} 92v12M${seat} 92v12`"
        class="dim"
        :class="{ bad: out.rod.gap_mm < 0 }"
      />
      <text v-if="out" :x="seat + 10" y="103">{{ t('ui.gap_x4') }}</text>
    </svg>
    <div class="grid">
      <NumField v-model="rod.pocket_mm" name="mm" bound="rod.pocket_mm" :label="t('ui.pocket')" testid="rod-pocket" />
      <NumField v-model="rod.gasket_mm" name="mm" bound="rod.gasket_mm" :label="t('ui.gasket')" testid="rod-gasket" />
      <NumField
        v-model="rod.protrusion_mm"
        name="mm"
        bound="rod.protrusion_mm"
        :label="t('ui.protrusion')"
        testid="rod-protrusion"
      />
      <NumField v-model="rod.pitch_mm" name="mm" bound="rod.pitch_mm" :label="t('ui.pitch')" />
      <NumField
        v-model="rod.target_mm"
        name="mm"
        :label="t('ui.target')"
        :min="limits.rod_least_mm"
        :max="limits.rod_most_mm"
      />
    </div>
    <button type="button" class="tap" :aria-pressed="vacuum" @click="vacuum = !vacuum">
      {{ t('ui.under_vacuum') }}
    </button>
    <p v-if="out" class="result" :class="verdict.replace('.', '-')" data-testid="rod-result">
      <strong>{{ t('ui.gap') }} <Fig name="mm" :value="out.rod.gap_mm" /></strong> {{ t(verdict) }}
      <template v-if="verdict !== 'rod.right' && Math.abs(out.rod.turns) >= limits.turns_least"
        >{{ t(out.rod.turns > 0 ? 'rod.out' : 'rod.in', { turns: Math.abs(out.rod.turns).toFixed(2) }) }}
      </template>
      <template v-if="out.rod.pedal_lost_mm > 0"
        >&nbsp;{{ t('ui.pedal_lost') }} <Fig name="mm" :value="out.rod.pedal_lost_mm"
      /></template>
    </p>
    <button
      type="button"
      class="tap"
      :class="{ main: !done }"
      :disabled="!out"
      data-testid="rod-tick"
      @click="emit('tick', body)"
    >
      {{ t(done ? 'ui.measured_again' : 'ui.rod_set') }}
    </button>
  </div>
</template>

<style scoped>
.rod {
  display: grid;
  gap: 10px;
  justify-items: start;
}
svg {
  width: 100%;
  max-width: 520px;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 10px 14px;
  width: 100%;
}
.face {
  stroke: var(--ink);
  stroke-width: 3;
}
.pocket {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.5;
}
.seat {
  stroke: var(--ink);
  stroke-width: 5;
}
.stick {
  stroke: var(--a);
  stroke-width: 14;
}
.dim {
  stroke: var(--ok);
  stroke-width: 3;
}
.bad {
  stroke: var(--bad);
}
.result {
  padding: 8px 12px;
  background: var(--ok-bg);
  width: 100%;
}
.rod-preload,
.rod-covered {
  background: var(--bad-bg);
}
.rod-large {
  background: var(--warn-bg);
}
text {
  font-size: 14px;
}
</style>
