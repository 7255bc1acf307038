<script setup lang="ts">
import { rubberName, say, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** What mineral oil reached, part by part: flushing takes it out of nothing it has soaked into. */
defineProps<{ parts: string[] }>()
const store = useJob()
const session = useSession()
const renewed = (part: string) => void store.send('rubber_renewed', { part })
</script>

<template>
  <section class="field" data-testid="rubber">
    <h2>{{ t('ui.rubber_title') }}</h2>
    <p class="problem" role="alert">{{ say('gate.rubber', { rubber_parts: parts }, session.pref) }}</p>
    <ul>
      <li v-for="p in parts" :key="p" class="row">
        <span>{{ rubberName(p) }}</span>
        <button
          type="button"
          class="tap"
          :data-testid="'renewed-' + p"
          :aria-label="`${t('ui.rubber_done')}: ${rubberName(p)}`"
          @click="renewed(p)"
        >
          {{ t('ui.rubber_done') }}
        </button>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  justify-content: space-between;
  border-top: 1px solid var(--rule-soft);
}
</style>
