<script setup lang="ts">
import { computed, ref } from 'vue'
import TrainDrawing from '@/components/terms/TrainDrawing.vue'
import TopBar from '@/components/TopBar.vue'
import { terms } from '@/lib/terms'
import { t } from '@/lib/words'

/** All words of the trade, in the order of the alphabet of whoever reads; one is lit in the drawing. */
const list = computed(() =>
  Object.keys(terms)
    .map((id) => ({ id, name: t('term.' + id) }))
    .sort((a, b) => a.name.localeCompare(b.name)),
)
const lit = ref('master_cylinder')
</script>

<template>
  <TopBar />
  <main class="page">
    <h1>{{ t('ui.words_of_trade') }}</h1>
    <p class="small">{{ t('ui.words_note') }}</p>
    <div class="both">
      <dl class="field">
        <div v-for="x in list" :key="x.id" :class="{ at: lit === x.id }">
          <dt>
            <button type="button" class="tap bare" :aria-pressed="lit === x.id" data-testid="term" @click="lit = x.id">
              {{ x.name }}
            </button>
          </dt>
          <dd>{{ t('term_what.' + x.id) }}</dd>
        </div>
      </dl>
      <section class="field draw" aria-live="polite">
        <h2>{{ t('term.' + lit) }}</h2>
        <TrainDrawing :lit="terms[lit] ?? ''" />
        <p>{{ t('term_what.' + lit) }}</p>
      </section>
    </div>
  </main>
</template>

<style scoped>
.both {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 520px);
  gap: 18px;
  align-items: start;
}
.draw {
  position: sticky;
  top: 12px;
  margin: 0;
}
dl {
  margin: 0;
}
dl > div {
  display: grid;
  grid-template-columns: 200px 1fr;
  gap: 4px 12px;
  align-items: center;
  border-top: 1px solid var(--rule-soft);
}
dd {
  margin: 0;
  padding: 4px 0;
}
dt .tap {
  padding-left: 0;
  justify-content: flex-start;
  text-align: left;
}
@media (max-width: 1000px) {
  .both {
    display: flex;
    flex-direction: column-reverse;
  }
  dl > div {
    grid-template-columns: 1fr;
  }
}
</style>
