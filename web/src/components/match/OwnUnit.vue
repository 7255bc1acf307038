<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Unit } from '@/api/client'
import UnitMeasure from '@/components/match/UnitMeasure.vue'
import UnitName from '@/components/match/UnitName.vue'
import { useChoices } from '@/lib/choices'
import { t } from '@/lib/words'

/** A unit that is not on the shelf, measured out of its box. */
const props = defineProps<{ empty: Unit; old: Unit; chambers: { circuit: string; position: string }[] }>()
const { choices, set } = useChoices()
const own = computed<Unit>(() => choices.value.own_unit ?? { ...props.empty, id: 'own', condition: 'new' })
const owning = ref(!!choices.value.own_unit)
const measured = computed(() => !!choices.value.old_unit)
/** As the old one, but: only what differs is typed. */
function asOld() {
  const ports = props.old.ports.map((p) => ({ ...p, run_mm: undefined, new_line: undefined }))
  const { maker, number } = own.value
  void set({
    own_unit: { ...props.old, ports, id: 'own', condition: 'new', maker, number, contents: [], rebuildable: undefined },
  })
}
defineExpose({ open: () => (owning.value = true) })
</script>

<template>
  <section class="field">
    <header>
      <h2>{{ t('ui.own_unit') }}</h2>
      <button type="button" class="tap" :aria-expanded="owning" data-testid="own" @click="owning = !owning">
        {{ t(owning ? 'ui.fold' : 'ui.measure') }}
      </button>
    </header>
    <template v-if="owning">
      <p class="small">{{ t('ui.own_note') }}</p>
      <button v-if="measured" type="button" class="tap" data-testid="as-old" @click="asOld">
        {{ t('ui.as_old') }}
      </button>
      <UnitName :unit="own" testid="own" @change="(x) => set({ own_unit: { ...own, ...x } })" />
      <UnitMeasure name="own" :unit="own" :chambers="chambers" @change="(u) => set({ own_unit: u })" />
    </template>
  </section>
</template>
