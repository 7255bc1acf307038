import { ref } from 'vue'
import { registerSW } from 'virtual:pwa-register'

/** Whether a newer version of the page stands ready; it is taken when a person says so, in the bay. */
export const newer = ref(false)
let take: ((reload?: boolean) => Promise<void>) | undefined

/** Keeps the page for when there is no server; a browser that cannot (plain HTTP from another machine) goes without. */
export function register() {
  if (!('serviceWorker' in navigator)) return
  take = registerSW({ onNeedRefresh: () => (newer.value = true), onRegisterError: () => {} })
}

export async function takeNewer() {
  await take?.(true)
}
