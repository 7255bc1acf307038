import { useEventListener, useIntervalFn } from '@vueuse/core'
import { ref } from 'vue'
import { registerSW } from 'virtual:pwa-register'

/** Whether a newer version of the page stands ready; each tab takes it when its own person says so. */
export const newer = ref(false)
/** Parts of this page are no longer there to be fetched: it goes on storing, and cannot open what it has not opened yet. */
export const filesGone = ref(false)
let take: ((reload?: boolean) => Promise<void>) | undefined
let asked = false

/** Keeps the page for when there is no server; a browser that cannot (plain HTTP from another machine) goes without. */
export function register() {
  window.addEventListener('vite:preloadError', () => (filesGone.value = true))
  if (!('serviceWorker' in navigator)) return
  take = registerSW({
    onNeedRefresh: () => (newer.value = true),
    // Another tab took it: this one is not reloaded under somebody's hands.
    onNeedReload: () => (asked ? location.reload() : (newer.value = true)),
    onRegisteredSW: (_, worker) => worker && lookOften(worker),
    onRegisterError: () => {},
  })
}

const everyMS = 5 * 60_000

/** Asks for a newer build every few minutes, and whenever somebody comes back to the page: a page that is never reloaded hears of it. */
function lookOften(worker: ServiceWorkerRegistration) {
  const look = () => void (navigator.onLine && !document.hidden && worker.update().catch(() => {}))
  useIntervalFn(look, everyMS)
  useEventListener(document, 'visibilitychange', look)
}

/** Takes the newer version, in this tab alone. */
export async function takeNewer() {
  asked = true
  await take?.(true)
  // Where another tab has taken it already, or there is no worker, nothing takes over: the page is fetched anew.
  setTimeout(() => location.reload(), 1500)
}
