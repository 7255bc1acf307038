<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas, Unit } from '@/api/client'
import OwnBooster from '@/components/match/OwnBooster.vue'
import BoosterMeasure from '@/components/match/BoosterMeasure.vue'
import UnitShown from '@/components/match/UnitShown.vue'
import UnitTable from '@/components/match/UnitTable.vue'
import { useChoices } from '@/lib/choices'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** The old booster measured, and the boosters of the shelf and the catalogue against it. */
const props = defineProps<{ view: Schemas['JobMatchView']; empty: Unit; shown: string | null }>()
defineEmits<{ show: [string] }>()
const store = useJob()
const { choices, set } = useChoices()
const old = computed<Unit>(
  () =>
    choices.value.old_booster ?? {
      ...props.empty,
      id: 'old_booster',
      kind: store.assist.unit,
    },
)
const looked = computed(
  () =>
    props.view.boosters.find((c) => c.unit.id === props.shown) ??
    props.view.boosters.find((c) => c.chosen) ??
    props.view.boosters[0],
)
const open = ref(!store.job!.choices.old_booster)
</script>

<template>
  <section class="field">
    <header>
      <h2>{{ t('ui.old_booster') }}</h2>
      <button type="button" class="tap" :aria-expanded="open" data-testid="measure-booster" @click="open = !open">
        {{ t(open ? 'ui.fold' : 'ui.measure') }}
      </button>
    </header>
    <BoosterMeasure
      v-if="open"
      :unit="old"
      :hydraulic="store.assist.pressure"
      @change="(u) => set({ old_booster: u })"
    />
  </section>
  <section v-if="view.boosters.length" class="field" data-testid="boosters">
    <header>
      <h2>{{ t('ui.boosters') }}</h2>
      <span class="small">{{ t('ui.shelf_note') }}</span>
    </header>
    <UnitTable
      :list="view.boosters"
      :shown="looked?.unit.id"
      @show="(id) => $emit('show', id)"
      @choose="(c) => set({ booster: choices.booster?.id === c.unit.id ? undefined : c.unit })"
    />
    <UnitShown v-if="looked" :c="looked" :old="old" />
  </section>
  <OwnBooster :empty="empty" :old="old" />
</template>

<style scoped>
.field + .field {
  margin-top: 14px;
}
</style>
