<script setup lang="ts">
import { darkTheme, NConfigProvider, NGlobalStyle } from 'naive-ui'
import { computed, onMounted, ref, watch } from 'vue'
import { RouterView, useRoute, useRouter } from 'vue-router'
import KeysHelp from '@/components/KeysHelp.vue'
import OutboxBar from '@/components/OutboxBar.vue'
import TroubleBar from '@/components/TroubleBar.vue'
import { Refused } from '@/api/client'
import { overrides } from '@/lib/theme'
import { t } from '@/lib/words'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'

const session = useSession()
const outbox = useOutbox()
const route = useRoute()
const router = useRouter()
const failed = ref('')

async function start() {
  failed.value = ''
  try {
    await session.load()
  } catch (e) {
    failed.value = e instanceof Refused ? e.problem.code : 'problem.server'
    setTimeout(start, 2000)
  }
}

onMounted(async () => {
  await outbox.load()
  await start()
  window.addEventListener('online', () => void outbox.flush())
})
watch(
  () => [session.asked, session.user, route.name] as const,
  ([asked, user, name]) => {
    if (!asked || !name || route.meta.open) return
    if (!user && name !== 'sign-in') void router.replace({ name: 'sign-in', query: { to: route.fullPath } })
    if (user && name === 'sign-in') void router.replace(String(route.query.to ?? '/'))
    // Who owns a chain has no jobs: its figures are the whole of it.
    if (user && session.may('read_chain') && name !== 'chain') void router.replace({ name: 'chain' })
    // A guest came for an exercise: there is nothing else of the shop here.
    if (user?.role === 'guest' && !guestsGo(route.path)) void router.replace({ name: 'practice' })
    if (user) void outbox.flush()
  },
)
const guestsGo = (path: string) => /^\/(practice|jobs\/|words)/.test(path)
/** The focus is never lost: where what had it is gone, it goes to the work, or to the page's name. */
watch(
  () => [route.fullPath, session.asked] as const,
  async () => {
    await new Promise((soon) => setTimeout(soon, 120))
    if (document.activeElement && document.activeElement !== document.body) return
    const at = document.querySelector<HTMLElement>('main .work, main h1')
    if (!at) return
    at.tabIndex = -1
    at.focus({ preventScroll: true })
  },
  { flush: 'post' },
)
const theme = computed(() => overrides(session.night))
watch(
  () => session.night,
  (night) => document.documentElement.classList.toggle('night', night),
  { immediate: true },
)
</script>

<template>
  <NConfigProvider :theme="session.night ? darkTheme : null" :theme-overrides="theme" abstract>
    <NGlobalStyle />
    <div class="ground">
      <p v-if="failed" class="problem" role="alert">{{ t(failed) }}</p>
      <OutboxBar />
      <TroubleBar />
      <RouterView v-if="session.asked" />
      <KeysHelp />
    </div>
  </NConfigProvider>
</template>
