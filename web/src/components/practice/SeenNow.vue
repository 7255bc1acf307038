<script setup lang="ts">
import { computed } from 'vue'
import Fig from '@/components/Fig.vue'
import { bay } from '@/lib/practice'
import { findingName, findingValue } from '@/lib/practicewords'
import { soundWords } from '@/lib/sounds'
import { t } from '@/lib/words'

/** What eyes, ears, hand and foot got of the last thing done. Nothing of it is told to the job by itself. */
const s = computed(() => bay.seen)
</script>

<template>
  <div v-if="s" class="seen" role="status" aria-live="polite" data-testid="seen">
    <p v-for="f in s.findings ?? []" :key="f.id">
      <span class="small">{{ findingName(f.id) }}</span> <strong>{{ findingValue(f) }}</strong>
    </p>
    <template v-if="s.pressed">
      <p>
        {{ t('seen.travel') }} <Fig name="mm" :value="s.travel_mm" />
        <template v-if="s.height_mm">
          · {{ t('seen.over_floor') }} <Fig name="mm" :value="s.height_mm" /> → <Fig name="mm" :value="s.ends_mm" />
        </template>
      </p>
      <p>
        <strong>{{
          t(s.floored ? 'seen.floored' : s.springs ? 'seen.springs' : s.assisted ? 'seen.light' : 'seen.by_leg')
        }}</strong>
      </p>
    </template>
    <p v-if="s.bubbles">
      <Fig name="cm3" :value="s.cm3" /> · <strong>{{ t('bubbles.' + s.bubbles) }}</strong> ·
      {{ t((s.old ?? 0) > 0.6 ? 'seen.dark' : (s.old ?? 0) > 0.2 ? 'seen.mixed' : 'seen.clear') }}
    </p>
    <p v-if="s.alike" class="caution">{{ t('seen.alike') }}</p>
    <p v-if="s.stripped" class="caution">{{ t('seen.stripped') }}</p>
    <p v-if="s.sounds?.length">{{ soundWords(s.sounds) }}</p>
    <p v-if="!(s.findings?.length || s.pressed || s.bubbles || s.alike || s.stripped)" class="small">
      {{ t('seen.done') }}
    </p>
  </div>
</template>

<style scoped>
.seen {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--sheet);
  border-left: 6px double var(--ink);
  padding: 4px 12px;
  min-height: 62px;
}
p {
  margin: 2px 0;
}
</style>
