<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref } from 'vue'
import type { Unit } from '@/api/client'
import UnitMeasure from '@/components/match/UnitMeasure.vue'
import { useChoices } from '@/lib/choices'
import { t } from '@/lib/words'

/** A unit that is not on the shelf, measured out of its box. */
const props = defineProps<{ empty: Unit; chambers: { circuit: string; position: string }[] }>()
const { choices, set } = useChoices()
const own = computed<Unit>(() => choices.value.own_unit ?? { ...props.empty, id: 'own', condition: 'new' })
const owning = ref(!!choices.value.own_unit)
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
      <div class="cols">
        <label
          ><span class="small">{{ t('ui.maker') }}</span
          ><NInput
            :value="own.maker"
            placeholder=""
            data-testid="own-maker"
            @update:value="(v: string) => set({ own_unit: { ...own, maker: v } })"
        /></label>
        <label
          ><span class="small">{{ t('ui.number') }}</span
          ><NInput
            :value="own.number"
            placeholder=""
            @update:value="(v: string) => set({ own_unit: { ...own, number: v } })"
        /></label>
      </div>
      <UnitMeasure name="own" :unit="own" :chambers="chambers" @change="(u) => set({ own_unit: u })" />
    </template>
  </section>
</template>
