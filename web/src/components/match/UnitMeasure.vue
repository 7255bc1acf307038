<script setup lang="ts">
import { computed } from 'vue'
import type { Unit } from '@/api/client'
import Choice from '@/components/Choice.vue'
import NumField from '@/components/NumField.vue'
import StampHelp from '@/components/StampHelp.vue'
import StampName from '@/components/StampName.vue'
import UnitDrawing from '@/components/match/UnitDrawing.vue'
import { usePhotoFigure, useUnitWords } from '@/lib/unitwords'
import { t } from '@/lib/words'
import ByPhoto from '@/pocket/ByPhoto.vue'

/** The old unit measured on the bench: calliper, thread gauge and eye. */
const props = defineProps<{ name: string; unit: Unit; chambers: { circuit: string; position: string }[] }>()
const emit = defineEmits<{ change: [Unit] }>()
function set(change: Partial<Unit>) {
  emit('change', { ...props.unit, ...change })
}
const { typed, taken } = usePhotoFigure(() => props.unit)
/** The ports as they were told, however many; of those that are not told yet, one a chamber. */
const ports = computed<Unit['ports']>(() => [
  ...props.unit.ports,
  ...props.chambers
    .filter((c) => !props.unit.ports.some((p) => p.position === c.position))
    .map((c) => ({ position: c.position, circuit: c.circuit, side: '', thread: '', seat: '' })),
])
/** Another port beside one: of the same chamber, the same thread and seat, on the other side. */
function another(i: number) {
  const p = ports.value[i]!
  const side = p.side === 'left' ? 'right' : p.side === 'right' ? 'left' : p.side
  set({ ports: [...ports.value.slice(0, i + 1), { ...p, side, run_mm: undefined }, ...ports.value.slice(i + 1)] })
}
const without = (i: number) => set({ ports: ports.value.filter((_, k) => k !== i) })
const circuits = computed(() => props.chambers.map((c) => ({ id: c.circuit, label: c.circuit })))
function port(i: number, change: Partial<Unit['ports'][number]>) {
  set({ ports: ports.value.map((p, k) => (k === i ? { ...p, ...change } : p)) })
}
const spec = (values: string[]) => values.map((v) => ({ id: v, label: t('spec.' + v) }))
const { figure, words, threads, residual } = useUnitWords()
const texts: (keyof Unit)[] = ['face_seal', 'sensor', 'variant', 'reservoir', 'brakes', 'material']
</script>

<template>
  <UnitDrawing :unit="unit" :single="chambers.length === 1" />
  <div class="cols">
    <div>
      <NumField
        :model-value="unit.bore_mm"
        name="mm"
        :label="t('ui.bore_stamp')"
        v-bind="figure('bore_mm')"
        :testid="name + '-bore'"
        @update:model-value="(v) => set({ bore_mm: v })"
      />
      <StampName :mm="unit.bore_mm" />
    </div>
    <div>
      <NumField
        :model-value="unit.stud_spacing_mm"
        name="mm"
        :label="t('ui.stud_spacing')"
        v-bind="figure('stud_spacing_mm')"
        :testid="name + '-studs'"
        @update:model-value="(v) => set({ stud_spacing_mm: v, studs: unit.studs || 2, ...typed('stud_spacing_mm') })"
      />
      <ByPhoto
        field="stud_spacing_mm"
        :label="t('ui.stud_spacing')"
        :half="unit.by_photo?.stud_spacing_mm"
        @take="(f) => set({ stud_spacing_mm: f.mm, studs: unit.studs || 2, ...taken('stud_spacing_mm', f.half) })"
      />
    </div>
    <NumField
      :model-value="unit.pocket_mm"
      name="mm"
      :label="t('point.pocket')"
      v-bind="figure('pocket_mm')"
      :testid="name + '-pocket'"
      @update:model-value="(v) => set({ pocket_mm: v })"
    />
    <Choice
      :value="unit.studs ? String(unit.studs) : null"
      :label="t('point.mounting')"
      :options="['2', '3', '4'].map((v) => ({ id: v, label: v }))"
      @pick="(v) => set({ studs: Number(v) })"
    />
  </div>
  <div v-for="(p, i) in ports" :key="i" class="port">
    <strong>{{ t('point.port_' + p.position) }}, {{ t('ui.circuit', { id: p.circuit || '?' }) }}</strong>
    <div class="row">
      <Choice
        :value="p.thread"
        :label="t('ui.thread')"
        :options="threads().map((v) => ({ id: v, label: v }))"
        @pick="(v) => v && port(i, { thread: v })"
      />
      <Choice
        :value="p.seat"
        :label="t('ui.seat')"
        :options="spec(words('seat'))"
        @pick="(v) => v && port(i, { seat: v })"
      />
      <Choice
        :value="p.side"
        :label="t('ui.side')"
        :options="spec(words('side'))"
        @pick="(v) => v && port(i, { side: v })"
      />
      <NumField
        v-if="name === 'old'"
        :model-value="p.run_mm"
        name="mm"
        :label="t('ui.run')"
        v-bind="figure('run_mm')"
        @update:model-value="(v) => port(i, { run_mm: v })"
      />
      <Choice
        v-if="chambers.length > 1"
        :value="p.circuit || null"
        :label="t('ui.feeds')"
        :options="circuits"
        :testid="`${name}-feeds-${i}`"
        @pick="(v) => port(i, { circuit: v ?? '' })"
      />
      <button
        v-if="name === 'old'"
        type="button"
        class="tap bare"
        :aria-pressed="!!p.new_line"
        :data-testid="'new-line-' + i"
        @click="port(i, { new_line: !p.new_line })"
      >
        {{ t('ui.line_anew') }}
      </button>
      <button type="button" class="tap bare" :data-testid="`${name}-another-${i}`" @click="another(i)">
        {{ t('ui.another_port') }}
      </button>
      <button v-if="ports.length > chambers.length" type="button" class="tap bare" @click="without(i)">
        {{ t('ui.no_such_port') }}
      </button>
    </div>
  </div>
  <StampHelp />
  <div class="row port">
    <Choice
      v-for="field in texts"
      :key="field"
      :label="t('point.' + field)"
      :value="unit[field] as string"
      :options="spec(words(field))"
      @pick="(v) => v && set({ [field]: v })"
    />
    <Choice
      :label="t('point.residual')"
      :value="unit.residual_mpa == null ? null : unit.residual_mpa > 0 ? 'yes' : 'no'"
      :options="['no', 'yes'].map((v) => ({ id: v, label: t('value.' + v) }))"
      @pick="(v) => set({ residual_mpa: v === 'yes' ? residual() : 0 })"
    />
    <Choice
      v-if="name === 'old'"
      :label="t('ui.old_rebuildable')"
      :value="unit.rebuildable == null ? null : unit.rebuildable ? 'yes' : 'no'"
      :options="['yes', 'no'].map((v) => ({ id: v, label: t('ui.can_rebuild_' + v) }))"
      @pick="(v) => set({ rebuildable: v === 'yes' })"
    />
  </div>
</template>

<style scoped>
.port {
  border-top: 1px solid var(--rule-soft);
  padding-top: 8px;
  margin-top: 10px;
  gap: 12px 20px;
}
</style>
