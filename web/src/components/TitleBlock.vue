<script setup lang="ts">
import { RouterLink } from 'vue-router'
import { t, waitsFor } from '@/lib/words'
import { useJob } from '@/stores/job'

/** What a drawing has in its corner: which vehicle this is, and what the job waits for. */
const store = useJob()
</script>

<template>
  <div v-if="store.job" class="block">
    <div class="who">
      <strong>{{ store.job.intake.vehicle }}</strong>
      <span class="plate fig">{{ store.job.intake.plate }}</span>
    </div>
    <RouterLink v-if="store.status" class="waits" :to="{ name: store.status.at }" data-testid="waits">
      <span class="small">{{ t(store.released ? 'ui.state' : 'ui.waits') }}</span>
      <strong>{{ waitsFor(store.status) }}</strong>
    </RouterLink>
  </div>
</template>

<style scoped>
.block {
  display: flex;
  border: 1.5px solid var(--ink);
  background: var(--sheet);
  min-width: 0;
  max-width: 640px;
}
.who,
.waits {
  padding: 4px 12px;
  min-width: 0;
  display: flex;
  flex-direction: column;
  justify-content: center;
  line-height: 1.2;
}
.waits {
  border-left: 4px double var(--ink);
  color: var(--ink);
  text-decoration: none;
  min-height: 48px;
}
.waits strong,
.who strong {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 210px;
}
@media (min-width: 1500px) {
  .waits strong,
  .who strong {
    max-width: 340px;
  }
}
.plate {
  color: var(--ink-2);
}
/* In the hand: one line, and the plate gives way first. */
@media (max-width: 1000px) {
  .block {
    flex: 1 1 0;
  }
  .who,
  .waits {
    flex: 1 1 0;
    padding: 2px 8px;
  }
  .waits strong,
  .who strong {
    max-width: none;
  }
}
@media (max-width: 620px) {
  .waits .small {
    display: none;
  }
  .waits strong {
    font-size: 15px;
    white-space: normal;
    display: -webkit-box;
    -webkit-line-clamp: 2;
    line-clamp: 2;
    -webkit-box-orient: vertical;
  }
  .plate {
    font-size: 15px;
  }
}
</style>
