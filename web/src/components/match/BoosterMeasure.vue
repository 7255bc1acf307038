<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas, Unit } from '@/api/client'
import Choice from '@/components/Choice.vue'
import NumField from '@/components/NumField.vue'
import { usePhotoFigure, useUnitWords } from '@/lib/unitwords'
import { t } from '@/lib/words'
import ByPhoto from '@/pocket/ByPhoto.vue'

/** The old booster measured: what bolts on, what reaches, what assists. */
type Spec = NonNullable<Schemas['MatchUnit']['booster']>
type PhotoField = Schemas['MatchPhotoWanted']['field']
const props = defineProps<{ unit: Unit; hydraulic: boolean }>()
const emit = defineEmits<{ change: [Unit] }>()
const unitWords = useUnitWords()
const b = computed<Spec>(() => props.unit.booster ?? {})
const put = (change: Partial<Unit>) => emit('change', { ...props.unit, ...change })
const spec = (change: Partial<Spec>, more: Partial<Unit> = {}) => put({ booster: { ...b.value, ...change }, ...more })
const { typed, taken } = usePhotoFigure(() => props.unit)
interface Field {
  id: string
  label: string
  value: number | null | undefined
  bound: string
  unitless?: boolean
  /** What it is called where a photo may tell it. */
  photo?: PhotoField
  set: (v: number | null, more?: Partial<Unit>) => void
}
const fields = computed<Field[]>(() => {
  const area = props.hydraulic ? 'power_area_mm2' : 'effective_area_mm2'
  const own = (id: string, key: keyof Spec, label: string, unitless = false): Field => ({
    id,
    label,
    bound: 'booster.' + key,
    unitless,
    value: b.value[key] as number | null | undefined,
    set: (v, more) => spec({ [key]: v }, more),
  })
  return [
    {
      ...own('firewall', 'firewall_spacing_mm', t('ui.firewall_spacing')),
      photo: 'firewall_spacing_mm',
      set: (v, more) => spec({ firewall_spacing_mm: v, firewall_studs: b.value.firewall_studs || 4 }, more),
    },
    {
      ...own('studs', 'firewall_spacing_mm', t('ui.stud_spacing')),
      bound: 'stud_spacing_mm',
      value: props.unit.stud_spacing_mm,
      photo: 'stud_spacing_mm',
      set: (v, more) => put({ stud_spacing_mm: v, studs: props.unit.studs || 2, ...more }),
    },
    own('rod', 'protrusion_mm', t('ui.rod_protrusion')),
    { ...own('shell', 'shell_mm', t('ui.shell')), photo: 'shell_mm' },
    own('ratio', 'ratio', t('ui.assist_ratio'), true),
    own('area', area, t('ui.assist_area') + ', mm²', true),
  ]
})
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
    <div v-for="f in fields" :key="f.id">
      <NumField
        :model-value="f.value"
        :name="f.unitless ? 'x' : 'mm'"
        :unitless="f.unitless"
        :label="f.label"
        v-bind="unitWords.figure(f.bound)"
        :testid="'booster-' + f.id"
        @update:model-value="(v) => f.set(v, f.photo && typed(f.photo))"
      />
      <ByPhoto
        v-if="f.photo"
        :field="f.photo"
        :label="f.label"
        :half="unit.by_photo?.[f.photo]"
        @take="(x) => f.set(x.mm, taken(f.photo!, x.half))"
      />
    </div>
  </div>
  <div class="row gap">
    <Choice
      :value="unit.face_seal"
      :label="t('point.face_seal')"
      :options="words(unitWords.words('face_seal'))"
      @pick="(v) => v && put({ face_seal: v })"
    />
    <Choice
      v-if="!hydraulic"
      :value="b.check_valve"
      :label="t('point.check_valve')"
      :options="words(unitWords.words('check_valve'))"
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
