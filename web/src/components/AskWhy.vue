<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import { t } from '@/lib/words'

/** A deed that asks why before it is done: the reason stays on the record. */
withDefaults(defineProps<{ label: string; why: string; testid: string; most?: number }>(), { most: 400 })
const emit = defineEmits<{ said: [string] }>()
const asking = ref(false)
const reason = ref('')
function say() {
  emit('said', reason.value.trim())
  asking.value = false
}
</script>

<template>
  <button v-if="!asking" type="button" class="tap" :data-testid="testid" @click="asking = true">{{ label }}</button>
  <form v-else class="row ask" @submit.prevent="reason.trim() && say()">
    <NInput
      v-model:value="reason"
      :placeholder="why"
      :input-props="{ 'aria-label': why }"
      :maxlength="most"
      autofocus
      :data-testid="testid + '-reason'"
    />
    <button class="tap main" :disabled="!reason.trim()" :data-testid="testid + '-now'">{{ label }}</button>
    <button type="button" class="tap bare" @click="asking = false">{{ t('ui.cancel') }}</button>
  </form>
</template>

<style scoped>
.ask {
  flex: 1;
  min-width: min(100%, 420px);
}
.ask > :first-child {
  flex: 1;
  min-width: 220px;
}
</style>
