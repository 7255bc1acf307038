<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas, Unit } from '@/api/client'
import FoldAway from '@/components/FoldAway.vue'
import UnitMeasure from '@/components/match/UnitMeasure.vue'
import { useChoices } from '@/lib/choices'
import { say, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** The old unit as it was measured: one line, opened to be measured; open while there is nothing. */
const props = defineProps<{
  view: Schemas['JobMatchView']
  old: Unit
  chambers: { circuit: string; position: string }[]
}>()
const store = useJob()
const session = useSession()
const { choices, set } = useChoices()
const empty = !store.job!.choices.old_unit
const line = computed(() => {
  const parts = [
    props.old.bore_mm ? say('ui.old_bore', { bore_mm: props.old.bore_mm }, session.pref) : t('ui.not_measured'),
    props.old.stud_spacing_mm
      ? say('ui.old_studs', { studs: props.old.studs, stud_mm: props.old.stud_spacing_mm }, session.pref)
      : '',
    props.old.pocket_mm ? say('ui.old_pocket', { pocket_mm: props.old.pocket_mm }, session.pref) : '',
    ...props.old.ports.map((p) => `${t('point.port_' + p.position)} ${p.thread}`),
  ]
  return parts.filter(Boolean).join(', ')
})
function fromVehicle() {
  const v = props.view.from_vehicle
  void set({
    old_unit: {
      ...props.old,
      bore_mm: v.bore_mm,
      stroke_mm: v.stroke_mm,
      residual_mpa: props.old.residual_mpa ?? v.residual_mpa,
    },
  })
}
</script>

<template>
  <FoldAway :title="t('ui.old_unit')" :line="line" :open="empty" data-testid="old-unit">
    <p>
      <button :disabled="!!old.bore_mm" type="button" class="tap" data-testid="from-vehicle" @click="fromVehicle">
        {{ t('ui.take_from_vehicle') }}
      </button>
    </p>
    <UnitMeasure name="old" :unit="old" :chambers="chambers" @change="(u) => set({ old_unit: u })" />
    <p v-if="choices.old_unit" class="small">
      {{ t('ui.old_rebuildable') }}: {{ t('ui.rebuild.' + view.old_rebuildable) }}
    </p>
  </FoldAway>
</template>
