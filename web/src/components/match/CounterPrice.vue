<script setup lang="ts">
import { money } from '@/lib/units'
import { useJob } from '@/stores/job'
import { ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { t } from '@/lib/words'

/** Stock and price from the parts counter. It may be slow or silent; the work goes on without it. */
const props = defineProps<{ number: string }>()
const out = ref<Schemas['ServerCounterOut'] | null>(null)
const asking = ref(false)
async function go() {
  asking.value = true
  try {
    out.value = await ask(api.POST('/api/counter', { body: { number: props.number } }))
  } catch {
    out.value = { state: 'silent', offer: null } as never
  }
  asking.value = false
}
const currency = useJob().dress?.settings?.currency
</script>

<template>
  <span class="row counter" role="status">
    <button type="button" class="tap bare" :disabled="asking" :data-testid="'counter-' + number" @click="go">
      {{ t(asking ? 'ui.counter_asking' : 'ui.counter_ask') }}
    </button>
    <template v-if="out">
      <strong v-if="out.offer" class="fig">
        {{
          t('ui.counter_price', { price: money(out.offer.price, currency, 2), core: money(out.offer.core, currency) })
        }},
        {{
          out.offer.stock
            ? t('ui.counter_stock', { stock: out.offer.stock })
            : t('ui.counter_lead', { days: out.offer.lead_days })
        }}
      </strong>
      <span v-else class="small">{{ t('ui.counter_' + out.state) }}</span>
    </template>
  </span>
</template>

<style scoped>
.counter .tap {
  padding-left: 0;
}
</style>
