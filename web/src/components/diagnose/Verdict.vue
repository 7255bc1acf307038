<script setup lang="ts">
import { money } from '@/lib/units'
import { useJob } from '@/stores/job'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import Fig from '@/components/Fig.vue'
import { t, wheels } from '@/lib/words'

/** The best action as things stand, with its chance and what it costs, and what is worth doing before it. */
const props = defineProps<{ result: Schemas['DiagnoseResult'] }>()
const emit = defineEmits<{ start: [string] }>()
const a = computed(() => props.result.action)
const head = computed(() => [a.value.best, ...(a.value.also ?? [])].map((x) => t('action.' + x)).join(' + '))
const percent = computed(() => Math.min(99, Math.round(100 * a.value.chance)))
const store = useJob()
</script>

<template>
  <header class="verdict">
    <h2>
      {{ head }}<span v-if="a.at?.length" class="at">, {{ wheels(a.at.join(', ')) }}</span>
    </h2>
    <p class="stands" data-testid="chance">
      <strong>{{ t('ui.right_chance', { percent }) }}</strong>,
      {{
        t('ui.work_costs', { minutes: Math.round(a.minutes), price: money(a.price, store.dress?.settings?.currency) })
      }}
    </p>
  </header>
  <p v-if="a.settled" class="ok" data-testid="settled">{{ t('ui.settled') }}</p>
  <div v-else class="row before" data-testid="settled">
    <span>
      <strong v-if="a.id === 'keep_testing'">{{ t('ui.keep_testing') }}. </strong>
      {{
        result.test_first
          ? t('ui.not_settled', { test: t('test.' + result.test_first) })
          : t(result.contradictions.length ? 'ui.repeat_first' : 'ui.no_test')
      }}
    </span>
    <button
      v-if="result.test_first"
      type="button"
      class="tap main"
      data-testid="test-first"
      @click="emit('start', result.test_first)"
    >
      {{ t('ui.do_test') }}
    </button>
  </div>
  <p v-if="a.modulator_routine" class="caution">{{ t('ui.modulator_routine') }}</p>
  <p v-if="a.replace_rubber" class="caution">{{ t('ui.replace_rubber') }}</p>
  <p v-for="w in result.wheel_work" :key="w.at" data-testid="wheel-work">
    <strong>{{ wheels(w.at) }}</strong>: {{ t('ui.take_up') }} <Fig name="mm" :value="w.take_up_mm" />,
    {{ t('ui.pedal_gains') }} <Fig name="mm" :value="w.pedal_gain_mm" />.
    <span v-if="!w.measured" class="small">{{ t('ui.wheel_work_typical') }}</span>
  </p>
</template>

<style scoped>
.verdict {
  align-items: baseline;
}
h2 {
  font-size: 28px;
}
.at {
  font-weight: 600;
}
.stands {
  font-size: 18px;
}
.before {
  border-left: 4px double var(--warn);
  padding: 4px 0 4px 12px;
  margin: 6px 0;
}
</style>
