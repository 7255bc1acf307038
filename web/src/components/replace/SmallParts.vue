<script setup lang="ts">
import { NInput } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import FoldAway from '@/components/FoldAway.vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** Small parts tapped in the order they come off, drawn apart along their axis below the buttons, which stay
 * where they are; at the fit the last goes on first. */
const props = defineProps<{ small: Schemas['JobSmallPart'][]; fitting: boolean; step?: string }>()
const store = useJob()
const session = useSession()
const place = ref('pedal_pin')
const note = ref('')
const here = computed(() => props.small.filter((x) => x.place === place.value))
const next = computed(() => here.value.filter((x) => !x.on).at(-1))
const name = (x: Schemas['JobSmallPart']) => [t('small_part.' + x.part), x.note].filter(Boolean).join(', ')
function off(part: string) {
  if (part === 'other' && !note.value.trim()) return
  store.send('part_off', { place: place.value, part, ...(note.value.trim() ? { note: note.value.trim() } : {}) })
  note.value = ''
}
/** At the step a place belongs to, that place is shown. */
const placeOf: Record<string, string> = {
  'strip.pedal_end': 'pedal_pin',
  'fit.pedal_end': 'pedal_pin',
  'strip.cylinder_off': 'stud',
  'fit.cylinder_nuts': 'stud',
  'rod.coupler_moved': 'old_unit',
}
watch(
  () => props.step,
  (s) => s && placeOf[s] && (place.value = placeOf[s]!),
  { immediate: true },
)
const last = computed(() => here.value.at(-1))
const left = computed(() => props.small.filter((x) => !x.on).length)
</script>

<template>
  <FoldAway
    :title="t('ui.small_parts')"
    :line="small.length ? t('ui.off_count', { count: left }) : t('ui.small_parts_note')"
    :open="left > 0"
    data-testid="small-parts"
  >
    <Choice
      :value="place"
      :options="
        (session.vocabulary?.small_places ?? []).map((p) => ({
          id: p,
          label: t('small_place.' + p) + (small.some((x) => x.place === p && !x.on) ? ' •' : ''),
        }))
      "
      testid="small-place"
      @pick="(v) => v && (place = v)"
    />
    <div class="row gap">
      <button
        v-for="p in session.vocabulary?.small_parts ?? []"
        :key="p"
        type="button"
        class="tap"
        :disabled="p === 'other' && !note.trim()"
        :data-testid="'off-' + p"
        @click="off(p)"
      >
        {{ t('small_part.' + p) }}
      </button>
      <NInput
        v-model:value="note"
        :placeholder="t('ui.word_for_it')"
        class="word"
        :input-props="{ 'aria-label': t('ui.word_for_it') }"
      />
    </div>
    <svg
      v-if="here.length"
      :viewBox="`0 0 ${60 + here.length * 74} 92`"
      class="axis"
      role="img"
      :aria-label="here.map(name).join(', ')"
    >
      <path :d="`M4 34H${50 + here.length * 74}`" class="pin" />
      <g
        v-for="(x, i) in here"
        :key="x.id"
        :class="{ on: x.on, next: fitting && x.id === next?.id }"
        :transform="`translate(${58 + (here.length - 1 - i) * 74} 34)`"
      >
        <path d="M-11-19h22l11 19-11 19h-22L-22 0z" />
        <circle r="7" />
        <text y="38" text-anchor="middle">{{ i + 1 }}</text>
        <text y="54" text-anchor="middle">{{ t('small_part.' + x.part) }}</text>
      </g>
    </svg>
    <div class="row">
      <template v-if="next && fitting">
        <button type="button" class="tap main" data-testid="part-on" @click="store.send('part_on', { of: next.id })">
          {{ t('ui.back_on', { part: name(next) }) }}
        </button>
        <button
          type="button"
          class="tap"
          data-testid="part-new"
          @click="store.send('part_on', { of: next.id, new: true })"
        >
          {{ t('ui.part_new') }}
        </button>
      </template>
      <template v-if="last && !last.on">
        <button
          v-if="here.length > 1"
          type="button"
          class="tap"
          data-testid="part-earlier"
          @click="store.send('part_moved', { of: last.id })"
        >
          {{ name(last) }}: {{ t('ui.part_earlier') }}
        </button>
        <button type="button" class="tap" data-testid="part-undo" @click="store.undo(last.id)">
          {{ name(last) }}: {{ t('ui.part_undo') }}
        </button>
      </template>
    </div>
  </FoldAway>
</template>

<style scoped>
.axis {
  display: block;
  width: 100%;
  max-width: 620px;
  max-height: 150px;
  margin: 8px 0;
}
.pin {
  stroke: var(--rule);
  stroke-width: 5;
}
g path {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}
g circle {
  fill: var(--paper);
  stroke: var(--ink);
}
.on path {
  fill: var(--ink);
}
.next path {
  fill: var(--brass);
}
text {
  font-size: 13px;
  fill: var(--ink);
}
.word {
  width: 180px;
}
.gap {
  margin-top: 8px;
}
</style>
