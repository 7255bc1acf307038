<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import DateField from '@/components/DateField.vue'
import Fig from '@/components/Fig.vue'
import NumField from '@/components/NumField.vue'
import { useChoices } from '@/lib/choices'
import { shopNow } from '@/lib/clock'
import { dayText } from '@/lib/when'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The fluid to have in hand, why each class may or may not go in, and the bottle on the shelf. */
defineProps<{ view: Schemas['JobMatchView'] }>()
const session = useSession()
/** Those the shop has open; without a server one types what is on the bottle. */
const bottles = ref<Schemas['JobBottle'][] | null>(null)
onMounted(async () => (bottles.value = await ask(api.GET('/api/bottles')).catch(() => null)))
const { choices, set } = useChoices()
const today = () => new Date(shopNow()).toISOString().slice(0, 10)
</script>

<template>
  <section class="field">
    <header>
      <h2>{{ t('ui.fluid') }}</h2>
      <span class="small">{{ t('ui.allowed', { list: view.fluid.allowed.join(', ') }) }}</span>
    </header>
    <p v-if="view.opens_hydraulics" class="big" data-testid="fluid-need">
      <strong class="fig">{{ view.fluid.bottles }} × <Fig name="cm3" :value="view.fluid.bottle_cm3" /></strong>
      {{ view.fluid.class }}: {{ t('ui.fluid_bleed') }} <Fig name="cm3" :value="view.fluid.bleed_cm3" />,
      {{ t('ui.fluid_unit') }} <Fig name="cm3" :value="view.fluid.unit_cm3" />, {{ t('ui.fluid_margin') }}
      <Fig name="cm3" :value="view.fluid.margin_cm3" />
    </p>
    <p v-else>
      {{ t(choices.scope === 'elsewhere' ? 'plan.no_bleeding.elsewhere' : 'plan.no_bleeding.cylinder_aside') }}
    </p>
    <div v-if="view.opens_hydraulics && bottles?.length" class="row gap" data-testid="bottles">
      <span class="small">{{ t('ui.bottles_here') }}</span>
      <button
        v-for="b in bottles"
        :key="b.class + b.opened_at"
        type="button"
        class="tap"
        :aria-pressed="b.class === choices.bottle.class && b.opened_at === choices.bottle.opened_at"
        @click="set({ bottle: { ...choices.bottle, ...b } })"
      >
        {{ t('ui.bottle_is', { class: b.class, at: dayText(b.opened_at) })
        }}{{ b.water_percent != null ? `, ${b.water_percent} %` : '' }}
      </button>
    </div>
    <div v-if="view.opens_hydraulics" class="cols gap">
      <Choice
        :value="choices.bottle.class"
        :label="t('ui.bottle')"
        :options="(session.vocabulary?.fluids ?? []).map((f) => ({ id: f, label: f }))"
        testid="bottle"
        @pick="(v) => v && set({ bottle: { ...choices.bottle, class: v } })"
      />
      <NumField
        :model-value="choices.bottle.water_percent"
        name="percent"
        bound="bottle.water_percent"
        unitless
        :label="t('ui.bottle_water')"
        testid="bottle-water"
        @update:model-value="(v) => set({ bottle: { ...choices.bottle, water_percent: v } })"
      />
      <button
        type="button"
        class="tap low"
        :aria-pressed="choices.bottle.opened_at === today()"
        data-testid="bottle-fresh"
        @click="set({ bottle: { ...choices.bottle, opened_at: today() } })"
      >
        {{ t('ui.opened_today') }}
      </button>
      <DateField
        :model-value="choices.bottle.opened_at"
        :label="t('ui.bottle_opened')"
        testid="bottle-opened"
        @update:model-value="(v) => set({ bottle: { ...choices.bottle, opened_at: v } })"
      />
    </div>
    <p
      v-if="view.bottle.fitness && view.opens_hydraulics"
      :class="view.bottle.allowed ? 'small' : 'problem'"
      class="gap"
    >
      {{ t('fluid.' + view.bottle.fitness)
      }}<template v-if="view.bottle.water"
        >; {{ t('ui.water') }}: {{ t('fluid.' + view.bottle.water) }}, {{ t('ui.boils') }}
        <Fig name="c" :value="view.bottle.boil_c" /> ({{ t('ui.interpolated') }})</template
      >
    </p>
    <p v-if="view.bottle.open_days != null && view.opens_hydraulics" data-testid="bottle-age">
      {{ t('ui.open_days', { n: view.bottle.open_days }) }}: {{ t('fluid_age.' + view.bottle.age) }}
    </p>
    <ul v-if="view.opens_hydraulics" class="small">
      <li v-for="(f, c) in view.fluid.why" :key="c">{{ c }}: {{ t('fluid.' + f) }}</li>
    </ul>
    <p class="small">{{ t('ui.steering_apart') }}</p>
  </section>
</template>

<style scoped>
.gap {
  margin-top: 12px;
}
.low {
  align-self: end;
}
.big strong {
  font-size: 26px;
}
ul {
  margin: 6px 0 0;
  padding-left: 18px;
}
</style>
