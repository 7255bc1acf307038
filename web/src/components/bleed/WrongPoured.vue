<script setup lang="ts">
import { ref } from 'vue'
import Choice from '@/components/Choice.vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** Something else than the bottle in hand went in: told as the fact it is. */
const props = defineProps<{ wanted: string; classes: string[] }>()
const store = useJob()
const asking = ref(false)
function tell(poured: string | null) {
  if (!poured) return
  store.send('refill', { poured })
  asking.value = false
}
const options = () => [
  ...props.classes.filter((c) => c !== props.wanted).map((id) => ({ id, label: id })),
  { id: 'other', label: t('ui.poured_other') },
]
</script>

<template>
  <button type="button" class="tap bare" :aria-expanded="asking" data-testid="wrong-poured" @click="asking = !asking">
    {{ t('ui.poured_wrong') }}
  </button>
  <div v-if="asking" class="ask">
    <p class="caution small">{{ t('ui.poured_wrong_note') }}</p>
    <Choice :label="t('ui.poured_what')" :value="null" :options="options()" testid="poured" @pick="tell" />
  </div>
</template>

<style scoped>
.ask {
  flex: 1 1 100%;
}
</style>
