<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { sendTrouble, lacking, trouble } from '@/lib/trouble'
import { t } from '@/lib/words'

/** Errors in the page, and what this browser has not got. */
const told = useLocalStorage<string[]>('geminate.lacks', [])
const news = lacking().filter((x) => !told.value.includes(x))
</script>

<template>
  <div v-if="trouble" class="notice bad" role="alert" data-testid="trouble">
    <span
      ><strong>{{ t('ui.trouble') }}</strong> {{ trouble.message }}</span
    >
    <strong v-if="trouble.mark">{{ t('ui.trouble_sent', { mark: trouble.mark }) }}</strong>
    <button v-else type="button" class="tap" data-testid="send-trouble" @click="sendTrouble">
      {{ t('ui.trouble_send') }}
    </button>
    <button type="button" class="tap" @click="trouble = null">{{ t('ui.close') }}</button>
  </div>
  <div v-if="news.length" class="notice" role="status" data-testid="lacks">
    <span>{{ news.map((x) => t('lacks.' + x)).join(' ') }}</span>
    <button type="button" class="tap" @click="told = [...told, ...news]">{{ t('ui.understood') }}</button>
  </div>
</template>

<style scoped>
.notice {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
  padding: 8px 20px;
  background: var(--warn-bg);
  border-bottom: 4px double var(--warn);
}
.bad {
  background: var(--bad-bg);
  border-color: var(--bad);
}
</style>
