import type { App } from 'vue'
import { ref } from 'vue'
import { api, ask, Refused } from '@/api/client'

/** An error in the page that nobody caught: shown, never silent, and sent to the shop's log when the person says so. */
export interface Trouble {
  message: string
  stack: string
  page: string
  /** The mark under which the shop's log has it. */
  mark?: string
}

export const trouble = ref<Trouble | null>(null)

const most = 4000

function tell(error: unknown) {
  // What a call that failed comes to is said where it was made; one that fell through is still told.
  const e = error instanceof Error ? error : new Error(String(error))
  const message = e instanceof Refused ? `${e.problem.code} ${e.status}` : e.message
  // A browser says this of a layout that takes more than one turn; nothing is wrong.
  if (/ResizeObserver loop/.test(message)) return
  console.error(error)
  trouble.value = { message: message.slice(0, most), stack: (e.stack ?? '').slice(0, most), page: location.pathname }
}

export async function sendTrouble() {
  const t = trouble.value
  if (!t) return
  const { message, stack, page } = t
  const told = await ask(
    api.POST('/api/trouble', {
      body: { message, stack, page, version: document.querySelector('script[type=module]')?.getAttribute('src') ?? '' },
    }),
  ).catch(() => null)
  trouble.value = told ? { ...t, mark: told.mark } : t
}

export function watchTrouble(app: App) {
  app.config.errorHandler = tell
  window.addEventListener('error', (e) => tell(e.error ?? e.message))
  window.addEventListener('unhandledrejection', (e) => tell(e.reason))
}

/** What this browser has not got and the work goes on without; said once on each device. */
export function lacking(): string[] {
  const out = []
  if (!window.isSecureContext) out.push('secure')
  if (!('wakeLock' in navigator)) out.push('awake')
  if (!('vibrate' in navigator)) out.push('vibrate')
  if (typeof WebAssembly === 'undefined' || typeof Worker === 'undefined') out.push('core')
  if (typeof indexedDB === 'undefined') out.push('database')
  return out
}
