<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import Fig from '@/components/Fig.vue'
import { t } from '@/lib/words'

/** One instrument tried: what it says now, how long ago, and what became of what it told. Asked anew every second while it is tried. */
const props = defineProps<{ instrument: Schemas['ServerInstrumentView'] }>()
const emit = defineEmits<{ ask: [] }>()
const on = ref(false)
const now = ref(Date.now())
useIntervalFn(() => {
  now.value = Date.now()
  if (on.value) emit('ask')
}, 1000)
const i = computed(() => props.instrument)
const ago = computed(() =>
  i.value.last ? Math.max(0, Math.round((now.value - Date.parse(i.value.last.at)) / 1000)) : null,
)
</script>

<template>
  <button type="button" class="tap bare" :aria-pressed="on" :data-testid="'try-' + i.kind" @click="on = !on">
    {{ t('instrument.try') }}
  </button>
  <span v-if="on" class="row" role="status" :data-testid="'tried-' + i.kind">
    <template v-if="i.last">
      <strong v-if="i.kind === 'scan_tool'">{{ i.last.text }}</strong>
      <strong v-else><Fig :name="i.measure.ours" :value="i.last.v" /></strong>
      <span class="small">{{ t('instrument.heard', { s: ago }) }}</span>
    </template>
    <span v-else class="small bad">{{ t('instrument.unheard') }}</span>
    <span class="small">{{
      t('instrument.all_counts', {
        taken: i.counts.taken,
        doubled: i.counts.doubled,
        late: i.counts.late,
        refused: i.counts.refused,
      })
    }}</span>
    <span v-if="i.counts.clock_s" class="small">{{
      t('instrument.clock', { s: Math.round(i.counts.clock_s), n: i.counts.clock_steps ?? 0 })
    }}</span>
    <span v-if="i.counts.battery != null" class="small" :class="{ bad: i.counts.battery < 20 }">{{
      t('instrument.battery', { n: Math.round(i.counts.battery) })
    }}</span>
  </span>
</template>

<style scoped>
.bad {
  color: var(--bad);
}
</style>
