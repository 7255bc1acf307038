<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { ref } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { t } from '@/lib/words'

/** Which standard bore a measured or stamped one is, or that it is none. */
const props = defineProps<{ mm: number | null | undefined }>()
const bore = ref<Schemas['MatchBore'] | null>(null)
watchDebounced(
  () => props.mm,
  async (mm) => {
    bore.value = null
    if (mm == null) return
    try {
      bore.value = (await ask(api.POST('/api/bore', { body: { stamp: `${mm} mm` } }))).bore ?? null
    } catch (e) {
      if (!(e instanceof Refused)) throw e // beyond any bore: the field itself asks about it
    }
  },
  { debounce: 150, immediate: true },
)
</script>

<template>
  <p v-if="bore" class="small" role="status" data-testid="stamp">
    {{ bore.nearest ? t('ui.stamp_is', { nearest: bore.nearest }) : t('ui.stamp_odd') }}
  </p>
</template>
