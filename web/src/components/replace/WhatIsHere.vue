<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import FoldAway from '@/components/FoldAway.vue'
import { useJoint } from '@/lib/plan'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'

/** What this vehicle has at the joint: one screenful of taps, the likely ones set. The plan follows. */
const props = defineProps<{ asked: Schemas['JobFeatureAsked'][]; said: boolean }>()
const emit = defineEmits<{ said: [] }>()
const { joint, set } = useJoint()
const store = useJob()
const places = computed(() => [...new Set(props.asked.map((a) => a.place))])
/** What was there on such vehicles before comes first; without a server it is simply not told. */
const met = ref<Schemas['JobMet'] | null>(null)
onMounted(async () => {
  try {
    met.value = await ask(api.GET('/api/jobs/{id}/met', { params: { path: { id: store.job!.id } } }))
  } catch {
    met.value = null
  }
})
const often = computed(() =>
  Object.entries(met.value?.features ?? {})
    .sort((a, b) => b[1] - a[1])
    .map(([id, n]) => ({ id, n })),
)
/** As tapped so far: a second tap must not wait for the plan that follows from the first. */
const here = computed<string[]>(() => joint.value.present ?? props.asked.filter((a) => a.here).map((a) => a.id))
const put = (present: string[]) => void set({ present: present as never })
const tap = (id: string) => put(here.value.includes(id) ? here.value.filter((x) => x !== id) : [...here.value, id])
</script>

<template>
  <FoldAway
    :title="t('ui.what_is_here')"
    :line="said ? here.map((id) => t('feature.' + id)).join(', ') : t('ui.what_is_here_note')"
    :open="!said"
    data-testid="what-is-here"
  >
    <fieldset v-if="often.length" data-testid="met-before">
      <legend class="small">{{ t('ui.met_before', { count: met!.jobs }) }}</legend>
      <button
        v-for="m in often"
        :key="m.id"
        type="button"
        class="tap"
        :aria-pressed="here.includes(m.id)"
        @click="tap(m.id)"
      >
        {{ t('feature.' + m.id) }} {{ m.n }}×
      </button>
    </fieldset>
    <p v-if="met?.own.length" class="small">{{ t('ui.own_before') }}: {{ met.own.join(' · ') }}</p>
    <div class="places">
      <fieldset v-for="p in places" :key="p">
        <legend class="small">{{ t('place_at.' + p) }}</legend>
        <button
          v-for="a in asked.filter((x) => x.place === p)"
          :key="a.id"
          type="button"
          class="tap"
          :aria-pressed="here.includes(a.id)"
          :data-testid="'here-' + a.id"
          @click="tap(a.id)"
        >
          {{ t('feature.' + a.id) }}
        </button>
      </fieldset>
    </div>
    <button v-if="!said" type="button" class="tap main" data-testid="here-confirm" @click="(put(here), emit('said'))">
      {{ t('ui.that_is_it') }}
    </button>
  </FoldAway>
</template>

<style scoped>
.places {
  columns: 280px;
  column-gap: 18px;
  margin-bottom: 10px;
}
fieldset {
  border: 0;
  margin: 0 0 8px;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-content: start;
  break-inside: avoid;
}
legend {
  padding: 0;
}
</style>
