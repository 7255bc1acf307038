<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { say, t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** Nothing here fits: said at once, with what comes nearest and what each would need, and what to do next. */
defineProps<{ view: Schemas['JobMatchView'] }>()
defineEmits<{ measure: [] }>()
const session = useSession()
const need = (p: Schemas['MatchPoint']) => `${t('point.' + p.id)}: ${say(p.code, p.with ?? {}, session.pref)}`
</script>

<template>
  <section v-if="view.nothing_fits" class="field nothing" role="status" data-testid="nothing-fits">
    <h2>{{ t('ui.nothing_fits') }}</h2>
    <p>{{ t('ui.nothing_next') }}</p>
    <ul>
      <li v-for="n in view.near" :key="n.id">
        <strong>{{ n.name || n.id }}</strong>
        <span class="small"> {{ n.needs.map(need).join('; ') }}</span>
      </li>
    </ul>
    <button type="button" class="tap main" data-testid="measure-counter" @click="$emit('measure')">
      {{ t('ui.measure_counter') }}
    </button>
  </section>
</template>

<style scoped>
.nothing {
  border-left: 8px double var(--bad);
}
ul {
  padding-left: 18px;
}
</style>
