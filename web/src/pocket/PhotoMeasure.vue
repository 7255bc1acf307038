<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { Refused, type Problem, type Schemas } from '@/api/client'
import Choice from '@/components/Choice.vue'
import Faults from '@/components/Faults.vue'
import NumField from '@/components/NumField.vue'
import SheetBox from '@/components/SheetBox.vue'
import type { OnPhoto } from '@/core/core'
import { say, t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'
import PhotoTap, { type Tap } from './PhotoTap.vue'
import { develop, type Picture } from './picture'
import { onPhoto } from './tools'

/**
 * One figure of a unit, measured on a photo: a card beside it, four taps at its corners, then what is wanted. The core finds the edges
 * near the taps and says the figure with its interval; a hand takes it.
 */
type Field = Schemas['MatchPhotoWanted']['field']
const props = defineProps<{ field: Field; label: string }>()
const emit = defineEmits<{ close: []; take: [{ mm: number; half: number }] }>()
const store = useJob()
const session = useSession()
const of = computed(() => session.vocabulary?.unit.photo)
const wanted = computed(() => of.value?.wanted.find((p) => p.field === props.field))
const reference = ref<Schemas['PhotoReference']>('card')
const plane = ref<Schemas['PhotoPlane'] | ''>('')
const bar = ref<number | null>(null)
const picture = shallowRef<Picture | null>(null)
const points = ref<Tap[]>([])
const out = shallowRef<OnPhoto | null>(null)
const problem = ref<Problem | null>(null)
const unreadable = ref(false)
const busy = ref(false)
const file = ref<HTMLInputElement>()

const corners = 4
const all = computed(() => corners + (wanted.value?.points ?? 0))
/** A reference whose bar is measured first. */
const barred = computed(() => reference.value === of.value?.bar_of)
const ready = computed(() => !!plane.value && (!barred.value || bar.value != null))
const next = computed(() => {
  const n = points.value.length
  if (n < corners) return t('photo.tap_corner', { n: n + 1, what: t('photo.reference_corner.' + reference.value) })
  const each = wanted.value!.points / Math.max(1, wanted.value!.circles)
  const k = n - corners
  return t('photo.tap_edge.' + props.field, { circle: Math.floor(k / each) + 1, n: (k % each) + 1, of: each })
})
async function choose(e: Event) {
  const input = e.target as HTMLInputElement
  const chosen = input.files?.[0]
  input.value = ''
  if (!chosen) return
  unreadable.value = false
  again()
  busy.value = true
  try {
    picture.value = await develop(
      chosen,
      session.vocabulary?.photo_most ?? 0,
      session.vocabulary?.bounds?.['photo.focal35_mm'],
    )
  } catch {
    unreadable.value = true
  }
  busy.value = false
}
function again() {
  points.value = []
  out.value = null
  problem.value = null
}
function put(list: Tap[]) {
  points.value = list
  out.value = null
  problem.value = null
  if (list.length === all.value) void work()
}
const ask = () => ({
  wide_px: picture.value!.wide,
  high_px: picture.value!.high,
  ...(picture.value!.focal35 && { focal35_mm: picture.value!.focal35 }),
  reference: reference.value,
  ...(barred.value && { bar_mm: bar.value! }),
  plane: plane.value as Schemas['PhotoPlane'],
  corners: points.value.slice(0, corners),
  want: [{ id: props.field, kind: wanted.value!.kind, points: points.value.slice(corners) }],
})
async function work() {
  busy.value = true
  try {
    out.value = await onPhoto(ask())
  } catch (e) {
    if (e instanceof Refused) problem.value = e.problem
    else throw e
  } finally {
    busy.value = false
  }
}
const figure = computed(() => out.value?.figures[0])
const found = computed(() => [
  ...(out.value?.seen?.sides ?? []).flat(),
  ...Object.values(out.value?.seen?.circles ?? {}).flat(2),
])
function take() {
  const f = figure.value
  if (!f) return
  const photo = store.send('photo', { step: '', note: props.label, jpeg: picture.value!.jpeg })
  const told = { photo, field: props.field, mm: f.take_mm, half_mm: f.take_half_mm }
  store.send('photo_measured', { ...told, ask: { ...ask(), seen: out.value!.seen ?? undefined } })
  emit('take', { mm: f.take_mm, half: f.take_half_mm })
  emit('close')
}
const options = (words: string, ids: string[] = []) => ids.map((id) => ({ id, label: t(words + id) }))
</script>

<template>
  <SheetBox :show="true" :title="t('photo.title', { what: label })" :width="860" @update:show="emit('close')">
    <template v-if="!picture">
      <ol class="how">
        <li>{{ t('photo.how_lay', { what: t('photo.reference.' + reference) }) }}</li>
        <li>{{ t('photo.how_hold') }}</li>
      </ol>
      <div class="row">
        <Choice
          :label="t('photo.which_reference')"
          :value="reference"
          :options="options('photo.reference.', of?.references)"
          testid="photo-reference"
          @pick="(v) => v && (reference = v as typeof reference)"
        />
        <Choice
          :label="t('photo.which_plane')"
          :value="plane"
          :options="options('photo.plane.', of?.planes)"
          testid="photo-plane"
          @pick="(v) => v && (plane = v as typeof plane)"
        />
      </div>
      <div v-if="barred" class="row gap">
        <a class="tap" href="/api/target.pdf" target="_blank" rel="noopener">{{ t('photo.target_print') }}</a>
        <NumField v-model="bar" name="mm" :label="t('photo.bar')" bound="photo.bar_mm" testid="photo-bar" />
      </div>
      <p class="small">{{ t('photo.never') }}</p>
      <button
        type="button"
        class="tap main"
        :disabled="!ready || busy"
        data-testid="photo-choose"
        @click="file?.click()"
      >
        {{ t(busy ? 'photo.developing' : 'photo.choose') }}
      </button>
      <input
        ref="file"
        type="file"
        accept="image/*"
        class="gone"
        tabindex="-1"
        :aria-label="t('photo.choose')"
        data-testid="photo-measure-file"
        @change="choose"
      />
      <p v-if="unreadable" role="alert">{{ t('ui.photo_too_big') }}</p>
    </template>
    <template v-else>
      <p class="next" role="status" data-testid="photo-next">
        <template v-if="figure">
          <strong data-testid="photo-figure">{{
            say('photo.figure', { value_mm: figure.take_mm, half_mm: figure.take_half_mm }, session.pref)
          }}</strong>
          <span class="small">{{ t('photo.most.' + figure.most) }}</span>
        </template>
        <strong v-else-if="busy">{{ t('photo.working') }}</strong>
        <strong v-else-if="points.length < all">{{ next }}</strong>
      </p>
      <PhotoTap
        :picture="picture"
        :points="points"
        :found="found"
        :wants="points.length < all"
        :magnifier="of?.magnifier_x ?? 1"
        @put="put"
      />
      <Faults v-if="problem" :problem="problem" />
      <div class="row gap">
        <button v-if="figure" type="button" class="tap main" data-testid="photo-take" @click="take">
          {{ t('photo.take_it') }}
        </button>
        <button
          type="button"
          class="tap"
          :disabled="!points.length"
          data-testid="photo-back"
          @click="put(points.slice(0, -1))"
        >
          {{ t('photo.back') }}
        </button>
        <button type="button" class="tap" @click="((picture = null), again())">{{ t('photo.other') }}</button>
        <span v-if="out" class="small">{{ t(out.edges ? 'photo.edges' : 'photo.no_edges') }}</span>
      </div>
    </template>
  </SheetBox>
</template>

<style scoped>
.how {
  margin: 0 0 10px;
  padding-left: 22px;
}
.next {
  display: flex;
  gap: 6px 14px;
  align-items: baseline;
  flex-wrap: wrap;
  min-height: 56px;
  margin: 0 0 6px;
}
.next strong {
  font-size: 22px;
}
</style>
