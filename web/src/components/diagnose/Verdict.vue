<script setup lang="ts">
import { money } from '@/lib/units'
import { useJob } from '@/stores/job'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import Fig from '@/components/Fig.vue'
import { t, testName, wheels } from '@/lib/words'

/** The best action as things stand, with its chance and what it costs, and what is worth doing before it. */
const props = defineProps<{ result: Schemas['DiagnoseResult'] }>()
const emit = defineEmits<{ start: [string] }>()
const a = computed(() => props.result.action)
const head = computed(() => [a.value.best, ...(a.value.also ?? [])].map((x) => t('action.' + x)).join(' + '))
const at = computed(() => (a.value.at?.length ? `, ${wheels(a.value.at.join(', '))}` : ''))
const unlikely = computed(() => a.value.id === 'keep_testing')
const testId = computed(() => props.result.test_first || (unlikely.value ? (props.result.next_tests[0]?.id ?? '') : ''))
const again = computed(() => props.result.next_tests.find((n) => n.id === testId.value)?.again ?? false)
const first = computed(() => (testId.value ? testName(testId.value, again.value) : ''))
const why = computed(() => {
  if (props.result.contradictions.length && !props.result.test_first) return t('ui.repeat_first')
  if (!testId.value) return t('ui.no_test')
  return t('before.' + (props.result.first_why ?? 'saves'))
})
const percent = computed(() => Math.min(99, Math.round(100 * a.value.chance)))
const store = useJob()
</script>

<template>
  <!-- Below one half the headline is the next test; what is likeliest stands a line below, its price after it. -->
  <template v-if="unlikely">
    <header class="verdict">
      <h2 data-testid="head-test">{{ first ? t('ui.first_do', { test: first }) : t('ui.keep_testing') }}</h2>
    </header>
    <div class="row before" data-testid="settled">
      <span>{{ why }}</span>
      <button v-if="first" type="button" class="tap main" data-testid="test-first" @click="emit('start', testId)">
        {{ t('ui.do_test') }}
      </button>
    </div>
    <p class="stands" data-testid="chance">
      {{ t('ui.so_far') }} <strong>{{ head }}</strong>{{ at }}, {{ t('ui.right_chance', { percent }) }}
    </p>
  </template>
  <template v-else>
    <header class="verdict">
      <h2>
        {{ head }}<span v-if="at" class="at">{{ at }}</span>
      </h2>
      <p class="stands" data-testid="chance">
        <strong>{{ t('ui.right_chance', { percent }) }}</strong>
      </p>
    </header>
    <p v-if="a.settled" class="ok" data-testid="settled">{{ t('ui.settled') }}</p>
    <div v-else class="row before" data-testid="settled">
      <span>
        {{ first ? t('ui.not_settled', { test: first }) : '' }}
        {{ why }}
      </span>
      <button
        v-if="result.test_first"
        type="button"
        class="tap main"
        data-testid="test-first"
        @click="emit('start', testId)"
      >
        {{ t('ui.do_test') }}
      </button>
    </div>
    <p class="small">
      {{
        t('ui.work_costs', { minutes: Math.round(a.minutes), price: money(a.price, store.dress?.settings?.currency) })
      }}
    </p>
  </template>
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
h2 + .stands {
  margin-top: 2px;
}
.before {
  border-left: 4px double var(--warn);
  padding: 4px 0 4px 12px;
  margin: 6px 0;
}
</style>
