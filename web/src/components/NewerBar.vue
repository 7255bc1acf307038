<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { filesGone, newer, takeNewer } from '@/lib/pwa'
import { t } from '@/lib/words'

/** A newer version is ready, or this page is too old for the shop's program: said in every view, taken when it suits. */
const props = defineProps<{ tooOld?: boolean }>()
/** That a newer one is ready is said when another page is opened: a bar that came in mid-stroke would move what is tapped. */
const ready = ref(newer.value)
const route = useRoute()
watch(
  () => route.path,
  () => (ready.value = newer.value),
)
</script>

<template>
  <p
    v-if="ready || filesGone || props.tooOld"
    class="caution row"
    :role="filesGone || props.tooOld ? 'alert' : 'status'"
    data-testid="newer"
  >
    {{ t(props.tooOld ? 'ui.too_old' : filesGone ? 'ui.files_gone' : 'ui.newer_version') }}
    <button type="button" class="tap" data-testid="take-newer" @click="takeNewer">{{ t('ui.take_newer') }}</button>
  </p>
</template>
