<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import type { Schemas, System } from '@/api/client'
import Choice from './Choice.vue'
import NumField from './NumField.vue'
import {
  boosterOfKind,
  brakeOfKind,
  faultPath,
  fieldGroups,
  originOf,
  read,
  wheelFields,
  write,
  type FieldSpec,
} from '@/lib/fields'
import { usePointed } from '@/lib/shown'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The system field by field. What cannot be is said beside the field it is about. */
const props = defineProps<{ faults: Schemas['StrictFault'][]; pattern?: System }>()
const system = defineModel<System>({ required: true })
const session = useSession()
const open = ref<string[]>(['cylinder', 'fluid'])
/** What was pointed at in the drawing is opened and brought into view. */
const pointed = usePointed()
watch(
  () => pointed.n,
  async () => {
    if (!open.value.includes(pointed.part)) open.value = [...open.value, pointed.part]
    await nextTick()
    document.querySelector(`[data-part="${pointed.part}"]`)?.scrollIntoView({ block: 'start', behavior: 'smooth' })
  },
)
const groups = computed(() => fieldGroups(system.value))
function set(f: FieldSpec, v: number | null) {
  if (v != null) write(system.value, f.path, v)
}
function fault(f: FieldSpec): string | undefined {
  const x = props.faults.find((y) => faultPath(y.path) === f.path)
  return x ? say(x.code, x.with ?? {}, session.pref) : undefined
}
/** A figure still as the pattern has it says how far to trust it; one that was changed is this vehicle's. */
function note(f: FieldSpec): string | undefined {
  if (!props.pattern) return undefined
  if (read(system.value, f.path) !== read(props.pattern, f.path)) return t('origin.own')
  const o = originOf(session.vocabulary?.origins ?? [], f.path)
  return o && t('origin.' + o.origin, { source: o.source ?? '' })
}
function name(f: FieldSpec) {
  return f.key.split('.').pop()!
}
function flip(id: string) {
  open.value = open.value.includes(id) ? open.value.filter((x) => x !== id) : [...open.value, id]
}
function circuitOf(id: string) {
  return system.value.circuits.find((c) => c.wheels.includes(id))?.id ?? null
}
function hang(wheel: string, circuit: string | null) {
  for (const c of system.value.circuits) {
    c.wheels = c.wheels.filter((w) => w !== wheel)
    if (c.id === circuit) c.wheels.push(wheel)
  }
}
const patterns = computed(() => (session.vocabulary?.patterns ?? []).map((p) => p.system!).filter(Boolean))
const boosters = computed(() =>
  ['vacuum', 'hydraulic', 'electro_hydraulic', 'none'].map((id) => ({ id, label: t('enum.' + id) })),
)
function setBooster(kind: string | null) {
  const b = kind && kind !== system.value.booster?.kind ? boosterOfKind(patterns.value, kind) : undefined
  if (b) system.value.booster = b
}
function setBrake(i: number, kind: string | null) {
  const b = kind && kind !== system.value.wheels[i].brake.kind ? brakeOfKind(patterns.value, kind) : undefined
  if (b) system.value.wheels[i].brake = b
}
const bad = (fields: FieldSpec[]) => fields.some((f) => fault(f))
</script>

<template>
  <div>
    <Choice
      v-if="system.booster"
      :value="system.booster.kind"
      :label="t('field.booster.kind')"
      :options="boosters"
      testid="booster"
      class="kind"
      @pick="setBooster"
    />
    <div v-for="g in groups" :key="g.id" class="group" :data-part="g.id">
      <button
        type="button"
        class="tap bare head"
        :aria-expanded="open.includes(g.id) || bad(g.fields)"
        @click="flip(g.id)"
      >
        <strong>{{ t('group.' + g.id) }}</strong> <span class="small">{{ open.includes(g.id) ? '−' : '+' }}</span>
      </button>
      <div v-if="open.includes(g.id) || bad(g.fields)" class="cols">
        <Choice
          v-if="g.id === 'fluid'"
          :value="system.fluid.class"
          :label="t('field.fluid.class')"
          :options="(session.vocabulary?.fluids ?? []).map((f) => ({ id: f, label: f }))"
          @pick="(v) => v && (system.fluid.class = v)"
        />
        <NumField
          v-for="f in g.fields"
          :key="f.path"
          :model-value="read(system, f.path) as number"
          :name="name(f)"
          :unitless="f.unitless"
          :label="t('field.' + f.key)"
          :fault="fault(f)"
          :note="note(f)"
          :testid="'f-' + f.path"
          @update:model-value="(v) => set(f, v)"
        />
      </div>
    </div>
    <div v-for="(w, i) in system.wheels" :key="w.id" class="group" :data-part="w.id">
      <button
        type="button"
        class="tap bare head"
        :aria-expanded="open.includes(w.id) || bad(wheelFields(system, i))"
        :data-testid="'open-' + w.id"
        @click="flip(w.id)"
      >
        <strong>{{ t('ui.wheel', { id: w.id }) }}</strong>
        <span class="small"
          >{{ t('enum.' + w.brake.kind) }}, {{ t('ui.circuit', { id: circuitOf(w.id) ?? '–' }) }}
          {{ open.includes(w.id) ? '−' : '+' }}</span
        >
      </button>
      <div v-if="open.includes(w.id) || bad(wheelFields(system, i))" class="cols">
        <Choice
          v-if="system.circuits.length > 1"
          :value="circuitOf(w.id)"
          :label="t('ui.hangs_on')"
          :options="system.circuits.map((c) => ({ id: c.id, label: c.id }))"
          @pick="(v) => hang(w.id, v)"
        />
        <Choice
          :value="w.brake.kind"
          :label="t('ui.brake_kind')"
          :options="['disc', 'drum'].map((k) => ({ id: k, label: t('enum.' + k) }))"
          :testid="'kind-' + w.id"
          @pick="(v) => setBrake(i, v)"
        />
        <NumField
          v-for="f in wheelFields(system, i)"
          :key="f.path"
          :model-value="read(system, f.path) as number"
          :name="name(f)"
          :unitless="f.unitless"
          :label="t('field.' + f.key)"
          :fault="fault(f)"
          :note="note(f)"
          @update:model-value="(v) => set(f, v)"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
.kind {
  margin-bottom: 10px;
}
.group {
  border-top: 1px solid var(--rule-soft);
}
.group > .cols {
  padding: 2px 0 14px;
}
.head {
  width: 100%;
  justify-content: space-between;
  padding-left: 0;
}
</style>
