<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { ref } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import NumField from './NumField.vue'
import { useUnitWords } from '@/lib/unitwords'
import { t } from '@/lib/words'

/** A thread measured across its crests and gauged: which standard one it is. */
const unit = useUnitWords()
const diameter = ref<number | null>(null)
const pitch = ref<number | null>(null)
const out = ref<Schemas['ServerBoreOut'] | null>(null)
watchDebounced(
  [diameter, pitch],
  async () => {
    out.value = null
    if (diameter.value == null) return
    try {
      out.value = await ask(
        api.POST('/api/bore', { body: { diameter_mm: diameter.value, pitch_mm: pitch.value ?? 0 } }),
      )
    } catch (e) {
      if (!(e instanceof Refused)) throw e
    }
  },
  { debounce: 150 },
)
</script>

<template>
  <details class="help" data-testid="thread-help">
    <summary>{{ t('ui.thread_help') }}</summary>
    <div class="cols">
      <NumField
        v-model="diameter"
        name="mm"
        v-bind="unit.figure('thread.diameter_mm')"
        :label="t('ui.thread_diameter')"
        testid="thread-diameter"
      />
      <NumField
        v-model="pitch"
        name="mm"
        v-bind="unit.figure('thread.pitch_mm')"
        :label="t('ui.thread_pitch')"
        testid="thread-pitch"
      />
    </div>
    <p v-if="out && !out.threads.length" role="status">{{ t('ui.thread_none') }}</p>
    <ul v-else-if="out" role="status" data-testid="threads">
      <li v-for="x in out.threads" :key="x.id">
        {{ t('ui.thread_is', { id: x.id, seat: t('spec.' + x.seat), tube: x.tube }) }}
      </li>
      <li v-if="!out.threads[0]!.sure" class="small">{{ t('ui.thread_unsure') }}</li>
    </ul>
  </details>
</template>

<style scoped>
summary {
  min-height: var(--touch);
  display: flex;
  align-items: center;
  cursor: pointer;
}
</style>
