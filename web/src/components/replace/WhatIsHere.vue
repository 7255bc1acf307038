<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useJoint } from '@/lib/plan'
import { t } from '@/lib/words'

/** What this vehicle has at the joint: one screenful of taps, the likely ones set. The plan follows. */
const props = defineProps<{ asked: Schemas['JobFeatureAsked'][]; said: boolean }>()
const emit = defineEmits<{ said: [] }>()
const { joint, set } = useJoint()
const places = computed(() => [...new Set(props.asked.map((a) => a.place))])
/** As tapped so far: a second tap must not wait for the plan that follows from the first. */
const here = computed<string[]>(() => joint.value.present ?? props.asked.filter((a) => a.here).map((a) => a.id))
const put = (present: string[]) => void set({ present: present as never })
const tap = (id: string) => put(here.value.includes(id) ? here.value.filter((x) => x !== id) : [...here.value, id])
</script>

<template>
  <details class="field" :open="!said" data-testid="what-is-here">
    <summary>
      <h2>{{ t('ui.what_is_here') }}</h2>
      <span class="small">{{
        said ? here.map((id) => t('feature.' + id)).join(', ') : t('ui.what_is_here_note')
      }}</span>
    </summary>
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
  </details>
</template>

<style scoped>
summary {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
  min-height: 48px;
  cursor: pointer;
}
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
