<script setup lang="ts">
import { ref } from 'vue'
import { own } from '@/lib/own'
import { t } from '@/lib/words'

/** A station explains itself once, in a sentence that goes away and does not come back on this device. */
const props = defineProps<{ station: string }>()
const key = 'geminate.explained'
const told = () => (own.get(key) ?? '').split(',')
const shown = ref(!told().includes(props.station))
function away() {
  own.set(key, [...told(), props.station].filter(Boolean).join(','))
  shown.value = false
}
</script>

<template>
  <p v-if="shown" class="explain row" data-testid="explain">
    <span>{{ t('explain.' + station) }}</span>
    <button type="button" class="tap" data-testid="explain-away" @click="away">{{ t('ui.understood_station') }}</button>
  </p>
</template>

<style scoped>
.explain {
  flex-wrap: nowrap;
  justify-content: space-between;
  border-left: 4px double var(--brass);
  padding: 2px 0 2px 12px;
  margin-bottom: 10px;
}
.explain .tap {
  white-space: nowrap;
  min-height: 40px;
}
</style>
