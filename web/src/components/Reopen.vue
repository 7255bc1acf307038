<script setup lang="ts">
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Takes a release back, which asks for a reason: it stays on every later sheet. */
const store = useJob()
const asking = ref(false)
const reason = ref('')
async function reopen() {
  await store.reopen(reason.value)
  asking.value = false
}
</script>

<template>
  <button v-if="!asking" type="button" class="tap" data-testid="reopen" @click="asking = true">
    {{ t('ui.reopen') }}
  </button>
  <form v-else class="row ask" @submit.prevent="reopen">
    <NInput
      v-model:value="reason"
      :placeholder="t('ui.reopen_reason')"
      :input-props="{ 'aria-label': t('ui.reopen_reason') }"
      maxlength="4000"
      autofocus
      data-testid="reopen-reason"
    />
    <button type="submit" class="tap main" :disabled="!reason.trim()" data-testid="reopen-now">
      {{ t('ui.reopen') }}
    </button>
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
