<script setup lang="ts">
import { filesGone, newer, takeNewer } from '@/lib/pwa'
import { t } from '@/lib/words'

/** A newer version is ready, or this page is too old for the shop's program: said in every view, taken when it suits. */
const props = defineProps<{ tooOld?: boolean }>()
</script>

<template>
  <p
    v-if="newer || filesGone || props.tooOld"
    class="caution row"
    :role="filesGone || props.tooOld ? 'alert' : 'status'"
    data-testid="newer"
  >
    {{ t(props.tooOld ? 'ui.too_old' : filesGone ? 'ui.files_gone' : 'ui.newer_version') }}
    <button type="button" class="tap" data-testid="take-newer" @click="takeNewer">{{ t('ui.take_newer') }}</button>
  </p>
</template>
