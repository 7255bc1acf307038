<script setup lang="ts">
import { t } from '@/lib/words'

/** STOP: in the same place and colour on both screens of a call. */
defineProps<{ may: readonly string[] }>()
defineEmits<{ stop: [] }>()
</script>

<template>
  <button
    type="button"
    class="tap stop"
    data-testid="say-stop"
    :disabled="!may.includes('stop')"
    @click="$emit('stop')"
  >
    {{ t('call_say.stop') }}
  </button>
</template>

<style scoped>
.stop {
  min-height: 96px;
  font-size: 28px;
  font-weight: 700;
  border: 5px solid var(--bad);
  color: var(--bad);
}
</style>
