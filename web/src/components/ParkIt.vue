<script setup lang="ts">
import SheetBox from '@/components/SheetBox.vue'
import { NInput } from 'naive-ui'
import { ref } from 'vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** Parks the vehicle: not to be driven, and why. */
const props = defineProps<{ proposed?: string[]; main?: boolean }>()
const store = useJob()
const session = useSession()
const asking = ref(false)
const why = ref<string[]>([])
const note = ref('')
function ask() {
  why.value = [...(props.proposed ?? [])]
  note.value = ''
  asking.value = true
}
const turn = (id: string) =>
  (why.value = why.value.includes(id) ? why.value.filter((x) => x !== id) : [...why.value, id])
function park() {
  store.send('parked', { why: why.value as never, ...(note.value.trim() ? { note: note.value.trim() } : {}) })
  asking.value = false
}
</script>

<template>
  <button
    v-if="!store.job?.state.parked && !store.released"
    type="button"
    class="tap"
    :class="{ main }"
    data-testid="park"
    @click="ask"
  >
    {{ t('ui.park') }}
  </button>
  <SheetBox v-model:show="asking" :title="t('ui.park_why')" :width="560">
    <div class="row">
      <button
        v-for="r in session.vocabulary?.park_reasons ?? []"
        :key="r"
        type="button"
        class="tap"
        :aria-pressed="why.includes(r)"
        :data-testid="'park-' + r"
        @click="turn(r)"
      >
        {{ t('park.' + r) }}
      </button>
    </div>
    <label class="note"
      ><span class="small">{{ t('ui.anything_else') }}</span>
      <NInput v-model:value="note" placeholder="" data-testid="park-note" />
    </label>
    <button
      type="button"
      class="tap main"
      :disabled="!why.length || (why.includes('other') && !note.trim())"
      data-testid="park-it"
      @click="park"
    >
      {{ t('ui.park_it') }}
    </button>
  </SheetBox>
</template>

<style scoped>
.note {
  display: block;
  margin: 12px 0;
}
</style>
