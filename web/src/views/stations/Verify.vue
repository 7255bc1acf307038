<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, nextTick, ref, watch, watchEffect } from 'vue'
import { RouterLink } from 'vue-router'
import Faults from '@/components/Faults.vue'
import Meaning from '@/components/Meaning.vue'
import TwinPanel from '@/components/TwinPanel.vue'
import StateMark from '@/components/StateMark.vue'
import ToldLate from '@/components/replace/ToldLate.vue'
import AfterDrive from '@/components/verify/AfterDrive.vue'
import AfterRelease from '@/components/verify/AfterRelease.vue'
import FitReason from '@/components/verify/FitReason.vue'
import GateHead from '@/components/verify/GateHead.vue'
import PlaceChecks from '@/components/verify/PlaceChecks.vue'
import WorthALook from '@/components/verify/WorthALook.vue'
import { findingsOf } from '@/lib/findings'
import { useVerifyShown } from '@/lib/shown'
import { useStation } from '@/lib/station'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** What is read, place by place in the order one gets there; the gate fills beside it. */
const { view, problem, refresh } = useStation('verify')
const store = useJob()
const session = useSession()
const known = computed(() => findingsOf(store.job!, 'verify'))
const beside = useVerifyShown()
watchEffect(() => {
  const pairs =
    (known.value['pedal.readings']?.value as { pedal_force_n: number; travel_mm: number }[] | undefined) ?? []
  Object.assign(beside, { view: view.value, marks: pairs.map((r) => ({ x: r.pedal_force_n, y: r.travel_mm })) })
})
const next = computed(() => view.value?.to_do[0])
/** What only needs time is asked again as time goes by: nothing has to be tapped for it. */
const waits = computed(() => !!view.value?.to_do.some((i) => ['gate.time.short', 'gate.too_soon'].includes(i.code)))
useIntervalFn(() => waits.value && void refresh(), 15_000)
/** Places that are one walk are one tab, in the order one gets to them. */
const walks = [['engine_off'], ['engine_on', 'stopped'], ['wheels'], ['lamps', 'road', 'second']]
const tabs = computed(() => {
  const items = view.value?.gate.items ?? []
  return walks
    .map((list) => {
      const places = list
        .map((place) => ({ place, items: items.filter((i) => i.where === place) }))
        .filter((p) => p.items.length)
      const left = places.flatMap((p) => p.items).filter((i) => i.state !== 'ok').length
      return { id: list[0]!, places, left }
    })
    .filter((x) => x.places.length)
})
const walkOf = (place: string) => walks.find((w) => w.includes(place))?.[0]
const at = ref('')
const now = computed(() => tabs.value.find((x) => x.id === at.value) ?? tabs.value[0])
const link = computed(() => (next.value?.station ? { name: next.value.station } : null))
/** The first view stands where the next check is; after that only a tap moves it. */
watch(
  view,
  (v) => {
    if (!at.value && v) at.value = walkOf(v.to_do.find((i) => walkOf(i.where))?.where ?? '') ?? ''
  },
  { immediate: true },
)
/** On to a walk. With keys at hand the first figure asked for there is ready to be typed. */
async function go(id: string, jump = false) {
  at.value = id
  if (jump) window.scrollTo({ top: 0 })
  await nextTick()
  if (matchMedia('(pointer: fine)').matches)
    document.querySelector<HTMLElement>('[data-testid^="place-"] input')?.focus({ preventScroll: true })
}
</script>

<template>
  <Faults v-if="problem" :problem="problem" />
  <template v-if="view">
    <nav class="row walks" :aria-label="t('ui.where_checked')">
      <button
        v-for="x in tabs"
        :key="x.id"
        type="button"
        class="tap"
        :aria-pressed="now?.id === x.id"
        :data-testid="'walk-' + x.id"
        @click="go(x.id)"
      >
        <StateMark :state="x.left ? 'missing' : 'ok'" />
        {{ x.places.map((p) => t('gate_place.' + p.place)).join(' · ') }}
        <span v-if="x.left" class="fig">{{ t('ui.n_left', { n: x.left }) }}</span>
      </button>
    </nav>
    <AfterRelease :told="view.afterwards" :called-back="view.called_back" />
    <ToldLate :doubts="view.doubts" />
    <FitReason v-if="view.gate.items.some((i) => i.code === 'gate.fits.changes')" />
    <PlaceChecks v-for="p in now?.places ?? []" :key="p.place" :view="view" :place="p.place" :items="p.items" />
    <WorthALook v-if="!view.released" :looks="view.looks" />
    <TwinPanel />
    <div class="dock row">
      <Meaning testid="dock-gate">
        <template #line>
          <StateMark :state="view.gate.passable ? 'ok' : view.gate.failed ? 'failed' : 'missing'" />
          {{ t('ui.gate_counts', { missing: view.gate.missing, failed: view.gate.failed }) }}
        </template>
        <GateHead :view="view" />
      </Meaning>
      <button
        v-if="!view.released"
        type="button"
        class="tap"
        :class="{ main: view.gate.passable }"
        :disabled="!view.gate.passable || !session.may('release_job')"
        data-testid="release"
        @click="store.release()"
      >
        {{ t('ui.release') }}
      </button>
      <RouterLink v-if="link && !view.released" class="tap main" :to="link" data-testid="next-check"
        >{{ t('ui.next_check') }}: {{ t('finding.' + next!.id) }}</RouterLink
      >
      <AfterDrive v-else-if="view.after_drive.length && !view.released" :items="view.after_drive" />
      <button
        v-else-if="next && !view.released && walkOf(next.where) !== now?.id"
        type="button"
        class="tap main"
        data-testid="next-check"
        @click="go(walkOf(next.where) ?? '', true)"
      >
        {{ t('ui.next_check') }}: {{ t('finding.' + next.id) }}
      </button>
      <strong v-else-if="next && !view.released" data-testid="next-here"
        >{{ t('ui.next_check') }}: {{ t('finding.' + next.id) }}</strong
      >
      <RouterLink class="tap" :class="{ main: view.released }" :to="{ name: 'record' }" data-testid="to-record">{{
        t('ui.go_record')
      }}</RouterLink>
    </div>
  </template>
</template>

<style scoped>
.walks {
  margin: 12px 0;
  gap: 6px;
}
.walks .tap {
  padding: 4px 12px;
}
</style>
