<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import JobCard from '@/components/JobCard.vue'
import { t } from '@/lib/words'
import { useSession } from '@/stores/session'

/** The day by what each vehicle waits for; what was searched for is one list. */
const props = defineProps<{ jobs: Schemas['JobCard'][]; here: Record<string, string[]>; flat: boolean }>()
const session = useSession()
const bandOf = (j: Schemas['JobCard']) => j.status.band || (j.parked ? 'parked' : 'hands') // a card kept before bands were
const groups = computed(() =>
  props.flat
    ? [{ band: '', jobs: props.jobs }]
    : (session.vocabulary?.bands ?? [])
        .map((band) => ({ band: band as string, jobs: props.jobs.filter((j) => bandOf(j) === band) }))
        .filter((g) => g.jobs.length),
)
</script>

<template>
  <div class="bands">
    <section
      v-for="g in groups"
      :key="g.band"
      class="band"
      :class="[g.band, `n${Math.min(3, g.jobs.length)}`]"
      :data-testid="'band-' + g.band"
    >
      <h2 v-if="g.band">
        {{ t('band.' + g.band) }} <span class="fig">{{ g.jobs.length }}</span>
      </h2>
      <ul class="jobs">
        <li v-for="j in g.jobs" :key="j.id">
          <JobCard :j="j" :here="here[j.id] ?? []" />
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
/* Narrow bands share a row: as many columns as they have vehicles. */
.bands {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 390px), 1fr));
  gap: 0 12px;
}
.band:only-child {
  grid-column: 1 / -1;
}
@media (min-width: 850px) {
  .n2,
  .n3 {
    grid-column: span 2;
  }
}
@media (min-width: 1240px) {
  .n3 {
    grid-column: span 3;
  }
}
/* A band is a ruled strip of the register: its name on the pair of lines, its vehicles under it. */
.band {
  margin-top: 18px;
}
.band h2 {
  border-bottom: 4px double var(--ink);
  padding-bottom: 3px;
}
.band h2 .fig {
  color: var(--ink-2);
  margin-left: 6px;
}
.parked h2 {
  color: var(--bad);
  border-color: var(--bad);
}
.jobs {
  list-style: none;
  padding: 0;
  margin: 10px 0 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(100%, 380px), 1fr));
  gap: 12px;
}
</style>
