<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Unit } from '@/api/client'
import BoosterMeasure from '@/components/match/BoosterMeasure.vue'
import UnitName from '@/components/match/UnitName.vue'
import { useChoices } from '@/lib/choices'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** A booster that is not on the shelf, measured out of its box, or as the old one with what differs. */
const props = defineProps<{ empty: Unit; old: Unit }>()
const store = useJob()
const { choices, set } = useChoices()
const own = computed<Unit>(
  () => choices.value.own_booster ?? { ...props.empty, id: 'own_booster', kind: store.assist.unit, condition: 'new' },
)
const open = ref(!!choices.value.own_booster)
const put = (change: Partial<Unit>) => void set({ own_booster: { ...own.value, ...change } })
const asOld = () => put({ ...props.old, id: 'own_booster', kind: own.value.kind, condition: 'new', contents: [] })
</script>

<template>
  <section class="field">
    <header>
      <h2>{{ t('ui.own_booster') }}</h2>
      <button type="button" class="tap" :aria-expanded="open" data-testid="own-booster" @click="open = !open">
        {{ t(open ? 'ui.fold' : 'ui.measure') }}
      </button>
    </header>
    <template v-if="open">
      <UnitName :unit="own" testid="own-booster" @change="put" />
      <button v-if="choices.old_booster" type="button" class="tap" data-testid="booster-as-old" @click="asOld">
        {{ t('ui.as_old') }}
      </button>
      <BoosterMeasure :unit="own" :hydraulic="store.assist.pressure" @change="(u) => put(u)" />
    </template>
  </section>
</template>
