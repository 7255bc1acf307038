<script setup lang="ts">
import AskWhy from './AskWhy.vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Takes a release back, which asks for a reason: it stays on every later sheet. */
const store = useJob()
</script>

<template>
  <AskWhy
    :label="t('ui.reopen')"
    :why="t('ui.reopen_reason')"
    :most="4000"
    testid="reopen"
    @said="(why) => store.reopen(why)"
  />
</template>
