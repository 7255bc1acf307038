<script setup lang="ts">
import { reactive, watch } from 'vue'
import type { Schemas } from '@/api/client'
import NumField from '@/components/NumField.vue'
import { useChoices } from '@/lib/choices'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The shop's own costs: what the choice between testing on and acting is weighed with. */
const props = defineProps<{ costs: Schemas['DiagnoseCosts']; alternatives: Schemas['DiagnoseActionCost'][] }>()
const { set } = useChoices()
const session = useSession()
const own = reactive({ per_minute: 0, comeback: 0, unsafe: 0 } as Record<string, number | null>)
const parts = reactive<Record<string, number | null>>({})
// Only where they are others than before: a view that is drawn anew must not wipe out what is being typed.
watch(
  () => JSON.stringify(props.costs),
  () => {
    const c = props.costs
    own.per_minute = c.per_minute
    own.comeback = c.comeback
    own.unsafe = c.unsafe
    Object.assign(parts, c.parts)
  },
  { immediate: true },
)
function keep() {
  const given = Object.fromEntries(Object.entries(parts).filter(([, v]) => v != null)) as Record<string, number>
  set({
    costs: {
      per_minute: own.per_minute ?? props.costs.per_minute,
      comeback: own.comeback ?? props.costs.comeback,
      unsafe: own.unsafe ?? props.costs.unsafe,
      parts: given,
    },
  })
}
</script>

<template>
  <details class="costs" data-testid="costs">
    <summary>{{ t('ui.costs') }}</summary>
    <table v-if="alternatives.length">
      <caption class="small">
        {{
          t('ui.alternatives')
        }}
      </caption>
      <tbody>
        <tr v-for="a in alternatives" :key="a.id">
          <th scope="row">{{ [a.id, ...(a.also ?? [])].map((x) => t('action.' + x)).join(' + ') }}</th>
          <td class="fig">{{ Math.round(a.expected_cost) }}</td>
        </tr>
      </tbody>
    </table>
    <p class="small">{{ t('ui.costs_note') }}</p>
    <div class="cols">
      <NumField
        v-model="own.per_minute"
        name="x"
        bound="cost"
        unitless
        :label="t('ui.per_minute')"
        testid="cost-minute"
      />
      <NumField
        v-model="own.comeback"
        name="x"
        bound="cost"
        unitless
        :label="t('ui.comeback')"
        testid="cost-comeback"
      />
      <NumField v-model="own.unsafe" name="x" bound="cost" unitless :label="t('ui.unsafe')" testid="cost-unsafe" />
      <NumField
        v-for="(_, id) in costs.parts"
        :key="id"
        v-model="parts[id]"
        name="x"
        bound="cost"
        unitless
        :label="t('ui.parts_for', { action: t('action.' + id) })"
      />
    </div>
    <button v-if="session.may('set_costs')" type="button" class="tap" data-testid="costs-store" @click="keep">
      {{ t('ui.costs_store') }}
    </button>
    <p v-else class="small">{{ t('ui.costs_lead') }}</p>
  </details>
</template>

<style scoped>
.costs {
  border-top: 1px solid var(--rule-soft);
}
summary {
  min-height: var(--touch);
  display: flex;
  align-items: center;
  cursor: pointer;
  font-weight: 600;
}
caption,
th {
  text-align: left;
  font-weight: 400;
}
td {
  text-align: right;
}
.tap {
  margin-top: 10px;
}
</style>
