<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { RouterView, useRoute, useRouter } from 'vue-router'
import { Refused, type Problem } from '@/api/client'
import Conflict from '@/components/Conflict.vue'
import Faults from '@/components/Faults.vue'
import PairRail from '@/components/PairRail.vue'
import TitleBlock from '@/components/TitleBlock.vue'
import TopBar from '@/components/TopBar.vue'
import TwinSide from '@/components/TwinSide.vue'
import { useKeys } from '@/lib/keys'
import { stationIds } from '@/router'
import { useJob } from '@/stores/job'

const store = useJob()
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
// Someone else may be at the same job: look now and then.
const timer = setInterval(() => {
  if (document.visibilityState === 'visible') store.look().catch(() => {})
}, 4000)
onBeforeUnmount(() => clearInterval(timer))
useKeys(
  Object.fromEntries(
    stationIds.map((id, i) => [String(i + 1), () => void router.push({ name: id, params: route.params })]),
  ),
)
const ready = computed(() => !!store.job)
</script>

<template>
  <TopBar><TitleBlock /></TopBar>
  <PairRail v-if="ready" />
  <main class="frame">
    <section class="work">
      <Faults v-if="problem" :problem="problem" />
      <Faults v-if="store.problem" :problem="store.problem" class="gap" />
      <RouterView v-if="ready" />
    </section>
    <aside v-if="ready && store.system" class="side"><TwinSide /></aside>
  </main>
  <Conflict v-if="store.conflict" />
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(340px, 420px);
  gap: 18px;
  padding: 4px 18px 90px;
  max-width: 1480px;
  margin: 0 auto;
  align-items: start;
}
.side {
  position: sticky;
  top: 8px;
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
  .side {
    order: -1;
    top: 0;
    z-index: 5;
  }
}
@media (max-width: 620px) {
  .side {
    position: static;
  }
}
</style>
