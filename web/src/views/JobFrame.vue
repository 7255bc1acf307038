<script setup lang="ts">
import { onBeforeUnmount, computed, ref, watch, watchEffect } from 'vue'
import { RouterLink, RouterView, useRoute, useRouter } from 'vue-router'
import { Refused, type Problem } from '@/api/client'
import Conflict from '@/components/Conflict.vue'
import WillFall from '@/components/WillFall.vue'
import Explain from '@/components/Explain.vue'
import Faults from '@/components/Faults.vue'
import NewerBar from '@/components/NewerBar.vue'
import RunningTimers from '@/components/RunningTimers.vue'
import ParkedBar from '@/components/ParkedBar.vue'
import PairRail from '@/components/PairRail.vue'
import TitleBlock from '@/components/TitleBlock.vue'
import TopBar from '@/components/TopBar.vue'
import MatchSide from '@/components/match/MatchSide.vue'
import { useMatchShown } from '@/lib/shown'
import JointSide from '@/components/replace/JointSide.vue'
import InstrumentBar from '@/components/instruments/InstrumentBar.vue'
import PracticeSide from '@/components/practice/PracticeSide.vue'
import TwinSide from '@/components/TwinSide.vue'
import { approach, bay } from '@/lib/practice'
import { useKeys } from '@/lib/keys'
import { useLive } from '@/lib/live'
import { momentText } from '@/lib/when'
import { t, speakOf } from '@/lib/words'
import { stationIds } from '@/router'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

const store = useJob()
const session = useSession()
const route = useRoute()
const router = useRouter()
const problem = ref<Problem | null>(null)
async function load(id: string) {
  problem.value = null
  try {
    await store.load(id)
    if (!route.name) await router.replace({ name: store.status?.at ?? 'intake' })
  } catch (e) {
    problem.value = e instanceof Refused ? e.problem : { code: 'problem.server' }
  }
}
watch(
  () => route.params.id,
  (id) => id && load(String(id)),
  { immediate: true },
)
watch(
  () => [store.job?.id, store.job?.intake.practice] as const,
  ([id, practice]) => {
    if (id) void approach(id, !!practice).catch(() => {})
    session.practising = !!practice
  },
  { immediate: true },
)
watchEffect(() => speakOf(store.job?.spoken))
onBeforeUnmount(() => {
  speakOf(undefined)
  session.practising = false
})
const { here, live } = useLive(
  computed(() => store.job?.id ?? ''),
  () => store.head,
  () => store.have,
  () => void store.look().catch(() => {}),
  (e) => store.heard(e),
)
/** Who else is at it: not oneself in a second tab. */
const others = computed(() =>
  [...new Set(here.value.filter((h) => h.user_id !== session.user?.id).map((h) => h.name))].join(', '),
)
const claim = computed(() => store.job?.state.history)
const when = momentText
useKeys(
  Object.fromEntries(
    stationIds.map((id, i) => [String(i + 1), () => void router.push({ name: id, params: route.params })]),
  ),
)
const matched = computed(() => route.name === 'match' && !!matching.c)
const matching = useMatchShown()
const ready = computed(() => !!store.job)
// Where one is, for the tab and for a screen reader; the focus goes to the work when the station changes.
const station = computed(() => (route.name ? t('station.' + String(route.name)) : ''))
const work = ref<HTMLElement | null>(null)
watchEffect(() => {
  document.title = [station.value, store.job?.intake.vehicle, 'Geminate'].filter(Boolean).join(' · ')
})
watch(
  () => route.name,
  (now, was) => was && now && work.value?.focus({ preventScroll: true }),
  { flush: 'post' },
)
</script>

<template>
  <TopBar><TitleBlock /></TopBar>
  <PairRail v-if="ready" />
  <main class="frame">
    <section ref="work" class="work" tabindex="-1">
      <h1 class="away">{{ station }} {{ store.job?.intake.vehicle }}</h1>
      <p v-if="others" class="small others" role="status" data-testid="here">
        {{ t('ui.also_here', { names: others }) }}
      </p>
      <NewerBar :too-old="store.tooOld" />
      <p v-if="!live && !store.kept" class="small others" role="status" data-testid="not-live">
        {{ t('ui.not_live') }}
      </p>
      <p v-if="store.kept" class="caution" role="status" data-testid="kept">{{ t('ui.kept_here') }}</p>
      <p v-if="claim" class="claim" data-testid="claim">
        <strong>{{ t('sheet.from_elsewhere') }}.</strong>
        {{ t('sheet.history', { at: when(claim.at), by: claim.by }) }}
        <template v-if="claim.released_at">
          {{ t('sheet.history_released', { at: when(claim.released_at), by: claim.released_by }) }}
        </template>
      </p>
      <p v-if="store.job?.intake.practice" class="caution" data-testid="practice">{{ t('ui.practice_here') }}</p>
      <Explain v-if="ready && route.name" :key="String(route.name)" :station="String(route.name)" />
      <template v-if="problem">
        <Faults :problem="problem" />
        <RouterLink class="tap main" to="/">{{ t('ui.to_bay') }}</RouterLink>
      </template>
      <p v-else-if="!ready" role="status">{{ t('ui.loading') }}</p>
      <Faults v-if="store.problem" :problem="store.problem" class="gap" />
      <InstrumentBar v-if="ready && !store.released" />
      <ParkedBar />
      <RunningTimers
        :timers="(store.job?.state.timers ?? []).filter((x) => x.clock !== 'wheel')"
        :stop="(of) => store.send('timer_stopped', { of })"
      />
      <RouterView v-if="ready" />
    </section>
    <aside v-if="ready && store.system" class="side" :class="{ wide: matched || route.name === 'verify' }">
      <PracticeSide v-if="bay.view && bay.job === store.job?.id" />
      <div v-if="route.name === 'verify'" id="beside" />
      <JointSide v-if="route.name === 'replace'" />
      <MatchSide v-else-if="matched" />
      <TwinSide v-else />
      <div v-if="route.name === 'diagnose'" id="beside" />
    </aside>
  </main>
  <p v-if="store.starting" class="starting small" role="status" data-testid="starting">{{ t('ui.core_starting') }}</p>
  <Conflict v-if="store.conflict" />
  <WillFall v-if="store.falls" />
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(340px, 420px);
  gap: 18px;
  --gutter: 18px;
  padding: 4px var(--gutter) 0;
  max-width: 1480px;
  margin: 0 auto;
  align-items: start;
  min-height: calc(100vh - 156px);
}
/* The foot stands at the foot, also where the page is short. */
.work {
  align-self: stretch;
  display: flex;
  flex-direction: column;
}
.work > :deep(*) {
  flex: none;
}
.work > :deep(.dock) {
  margin-top: auto;
}
.work > :deep(.field + .field) {
  margin-top: 14px;
}
.work:focus {
  outline: none;
}
.side {
  position: sticky;
  top: 8px;
  max-height: calc(100vh - 16px);
  overflow-y: auto;
}
/* Over the page, not in it: nothing moves when it goes. */
.starting {
  pointer-events: none;
  position: fixed;
  right: 12px;
  top: 60px;
  z-index: 30;
  padding: 2px 10px;
  background: var(--sheet);
  border: 1px solid var(--rule);
}
.others {
  margin-bottom: 8px;
}
.claim {
  border: 4px double var(--warn);
  background: var(--warn-bg);
  padding: 10px 14px;
  margin-bottom: 12px;
}
.gap {
  margin-bottom: 12px;
}
/* On a tablet the vehicle stands above the work and stays there while it scrolls. */
@media (max-width: 1000px) {
  .frame {
    display: flex;
    flex-direction: column;
    align-items: stretch;
  }
  .wide {
    display: none;
  }
  .side {
    order: -1;
    top: 0;
    z-index: 5;
  }
}
/* On a phone, upright or lying, the work comes first and the drawing after it. */
@media (max-width: 620px), (max-height: 520px) {
  .frame {
    --gutter: 10px;
    min-height: calc(100vh - 116px);
  }
  .work {
    flex: 1 0 auto;
  }
  .side {
    position: static;
    order: 1;
  }
}
</style>
