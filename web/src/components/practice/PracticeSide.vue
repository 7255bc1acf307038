<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import Faults from '@/components/Faults.vue'
import { bay, bring, refresh } from '@/lib/practice'
import { findingName, findingValue, placeName } from '@/lib/practicewords'
import { has, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useOutbox } from '@/stores/outbox'
import HandsDo from './HandsDo.vue'
import PedalPress from './PedalPress.vue'
import SeenNow from './SeenNow.vue'

/** The vehicle itself, beside the stations: what is done to it is done here, what is told is told there. */
const store = useJob()
const router = useRouter()
const v = computed(() => bay.view!)
const sure = ref(false)
const wheel = ref('')
const off = computed(() => v.value.stands.off.map(placeName))
/** What can be done follows the plan: it is asked anew when what was chosen has changed. */
watch(
  () => store.job?.choices_version,
  () => void refresh(),
)
/** As soon as the server knows all that was told, it is told all that was done. */
const outbox = useOutbox()
watch(
  () => !!bay.own?.ahead && !outbox.offline && !outbox.mine.some((w) => w.job === bay.job),
  (now) => now && void bring(),
)
const stop = computed(() => v.value.stands.stopped ?? '')
const end = () => void router.push(`/practice/${v.value.job}/end`)
</script>

<template>
  <section class="field vehicle" data-testid="practice-side">
    <header>
      <h2>{{ t('practice.vehicle') }}</h2>
      <span class="small fig">{{ t('ui.minutes_n', { n: v.stands.minutes }) }}</span>
    </header>
    <div v-if="stop" class="caution" role="alert" data-testid="stopped">
      <strong>{{ t('practice.stopped') }}</strong> {{ t('happened.' + stop) }} {{ t('happened_why.' + stop) }}
    </div>
    <p v-if="v.reports.length" class="small" data-testid="owner-says">
      {{ t('practice.owner') }}
      <span v-for="f in v.reports" :key="f.id">{{ findingName(f.id) }}: {{ findingValue(f) }}. </span>
    </p>
    <PedalPress v-if="!stop && !v.ended" @wheel="(w) => (wheel = w)" />
    <SeenNow />
    <p class="small">
      {{ t('practice.level') }} <span class="fig">{{ Math.round(100 * v.stands.level) }} %</span> ·
      {{ t(v.stands.engine_on ? 'practice.helped' : 'practice.not_helped') }}
      <template v-if="off.length"> · {{ t('practice.off', { list: off.join(', ') }) }}</template>
    </p>
    <p v-if="bay.own?.ahead" class="small" role="status" data-testid="here-alone">{{ t('practice.here_alone') }}</p>
    <Faults v-if="bay.problem" :problem="bay.problem" />
    <HandsDo v-if="!stop && !v.ended" v-model:wheel="wheel" />
    <div class="row end">
      <button
        v-if="!sure && !v.ended && !stop"
        type="button"
        class="tap"
        data-testid="practice-end"
        @click="sure = true"
      >
        {{ t('practice.end') }}
      </button>
      <button v-else type="button" class="tap main" data-testid="practice-end-sure" @click="end">
        {{ t(v.ended ? 'practice.see_end' : 'practice.end_sure') }}
      </button>
      <span v-if="sure && !v.ended" class="small">{{ t('practice.end_note') }}</span>
    </div>
    <p v-if="has('exercise.' + v.exercise)" class="small">{{ t('exercise.' + v.exercise) }}</p>
  </section>
</template>

<style scoped>
.vehicle {
  border-top: 4px double var(--ink);
}
.end {
  margin-top: 10px;
}
</style>
