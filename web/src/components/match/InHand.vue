<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { figure } from '@/lib/units'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** What moves over, what to buy or make, what is in the box: nothing forgotten. */
const props = defineProps<{ kit: Schemas['MatchItem'][] }>()
const session = useSession()
const groups = computed(() =>
  ['buy', 'move_over', 'in_box'].map((how) => ({ how, items: props.kit.filter((i) => i.how === how) })),
)
function words(i: Schemas['MatchItem']): string {
  const w: Record<string, unknown> = { ...i.with }
  for (const k of ['position', 'flare']) if (typeof w[k] === 'string') w[k] = t('spec.' + w[k])
  const extra = Array.isArray(w.threads)
    ? ', ' + t('ui.threads_needed', { list: (w.threads as string[]).join(', ') })
    : ''
  const count = typeof w.count === 'number' ? ` × ${w.count}` : ''
  const volume = typeof w.volume_cm3 === 'number' ? ', ' + figure('volume_cm3', w.volume_cm3, session.pref) : ''
  return say('item.' + i.id, w, session.pref) + count + volume + extra
}
</script>

<template>
  <section class="field" data-testid="in-hand">
    <header>
      <h2>{{ t('ui.in_hand') }}</h2>
    </header>
    <div class="cols">
      <div v-for="g in groups" :key="g.how">
        <h3>{{ t('how.' + g.how) }}</h3>
        <ul>
          <li v-for="(i, k) in g.items" :key="i.id + k">
            {{ words(i) }}
            <span class="small">{{ i.why.startsWith('kit.') ? t(i.why) : '' }}</span>
          </li>
          <li v-if="!g.items.length" class="small">–</li>
        </ul>
      </div>
    </div>
  </section>
</template>

<style scoped>
ul {
  margin: 4px 0 0;
  padding-left: 18px;
}
</style>
