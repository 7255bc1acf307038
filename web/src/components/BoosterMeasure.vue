<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas, Unit } from '@/api/client'
import Choice from './Choice.vue'
import NumField from './NumField.vue'
import { t } from '@/lib/words'

/** The old booster measured: what bolts on, what reaches, what assists. */
type Spec = NonNullable<Schemas['MatchUnit']['booster']>
const props = defineProps<{ unit: Unit; hydraulic: boolean }>()
const emit = defineEmits<{ change: [Unit] }>()
const b = computed<Spec>(() => props.unit.booster ?? {})
const put = (change: Partial<Unit>) => emit('change', { ...props.unit, ...change })
const spec = (change: Partial<Spec>) => put({ booster: { ...b.value, ...change } })
const words = (values: string[]) => values.map((v) => ({ id: v, label: t('spec.' + v) }))
</script>

<template>
  <svg viewBox="0 0 520 150" role="img" :aria-label="t('ui.old_booster')" class="drawing">
    <path d="M210 20q-30 0 -34 30v50q4 30 34 30h70q30 0 34 -30v-50q-4 -30 -34 -30z" class="cut" />
    <path d="M314 75h34M176 75h-70M314 48h22M314 102h22M176 40h-26M176 110h-26" class="bolt" />
    <path d="M336 42v66M330 42h12M330 108h12" class="dim" />
    <path d="M150 34v82M144 34h12M144 116h12" class="dim" />
    <path d="M314 134h34M314 128v12M348 128v12" class="dim" />
    <path d="M176 8h138M176 3v10M314 3v10" class="dim" />
    <text x="352" y="70">{{ t('point.mounting') }}</text>
    <text x="140" y="50" text-anchor="end">{{ t('point.firewall') }}</text>
    <text x="354" y="142">{{ t('point.protrusion') }}</text>
    <text x="322" y="14">{{ t('point.shell') }}</text>
  </svg>
  <div class="cols">
    <NumField
      :model-value="b.firewall_spacing_mm"
      name="mm"
      :label="t('ui.firewall_spacing')"
      :min="30"
      :max="300"
      testid="booster-firewall"
      @update:model-value="(v) => spec({ firewall_spacing_mm: v, firewall_studs: b.firewall_studs || 4 })"
    />
    <NumField
      :model-value="unit.stud_spacing_mm"
      name="mm"
      :label="t('ui.stud_spacing')"
      :min="50"
      :max="150"
      testid="booster-studs"
      @update:model-value="(v) => put({ stud_spacing_mm: v, studs: unit.studs || 2 })"
    />
    <NumField
      :model-value="b.protrusion_mm"
      name="mm"
      :label="t('ui.rod_protrusion')"
      :min="-20"
      :max="60"
      testid="booster-rod"
      @update:model-value="(v) => spec({ protrusion_mm: v })"
    />
    <NumField
      :model-value="b.shell_mm"
      name="mm"
      :label="t('ui.shell')"
      :min="100"
      :max="400"
      testid="booster-shell"
      @update:model-value="(v) => spec({ shell_mm: v })"
    />
    <NumField
      :model-value="b.ratio"
      name="x"
      unitless
      :label="t('ui.assist_ratio')"
      :min="1.5"
      :max="12"
      testid="booster-ratio"
      @update:model-value="(v) => spec({ ratio: v })"
    />
    <NumField
      :model-value="hydraulic ? b.power_area_mm2 : b.effective_area_mm2"
      name="x"
      unitless
      :label="t('ui.assist_area') + ', mm²'"
      :min="100"
      :max="120000"
      testid="booster-area"
      @update:model-value="(v) => spec(hydraulic ? { power_area_mm2: v } : { effective_area_mm2: v })"
    />
  </div>
  <div class="row gap">
    <Choice
      :value="unit.face_seal"
      :label="t('point.face_seal')"
      :options="words(['o_ring', 'gasket', 'none'])"
      @pick="(v) => v && put({ face_seal: v })"
    />
    <Choice
      v-if="!hydraulic"
      :value="b.check_valve"
      :label="t('point.check_valve')"
      :options="words(['left', 'right', 'top'])"
      @pick="(v) => v && spec({ check_valve: v })"
    />
    <Choice
      :value="b.rod_thread"
      :label="t('point.rod_thread')"
      :options="['M10x1.5', '3/8-24 rod'].map((v) => ({ id: v, label: v }))"
      @pick="(v) => v && spec({ rod_thread: v })"
    />
    <Choice
      v-if="hydraulic"
      :value="b.pressure_thread"
      :label="t('point.pressure_thread')"
      :options="['M16x1.5', 'M18x1.5'].map((v) => ({ id: v, label: v }))"
      @pick="(v) => v && spec({ pressure_thread: v })"
    />
  </div>
</template>

<style scoped>
.drawing {
  width: 100%;
  max-width: 560px;
  display: block;
  margin: 0 auto 8px;
}
.cut {
  fill: var(--rule-soft);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.bolt {
  stroke: var(--ink);
  stroke-width: 6;
  fill: none;
}
.dim {
  stroke: var(--a);
  stroke-width: 1.6;
  fill: none;
}
text {
  font-size: 14px;
}
.gap {
  margin-top: 10px;
}
</style>
