import { createSharedComposable, useIntervalFn } from '@vueuse/core'
import { ref } from 'vue'

// The shop's time is the server's: a tablet whose own clock is wrong, or is set while the page is open, shows a running
// timer as every other screen does. Between answers it is counted on the clock that nobody sets.
let told: number | null = null
let at = 0
let surest = Infinity

/** An answer that took longer than this, ms, is believed only where none was as quick for a while. */
const quick = 250
const while_ = 30_000

/** Takes the server's time from an answer, sent and got by the clock that nobody sets; the latest quick one is believed. */
export function heardTime(header: string | null, sent: number, got = performance.now()) {
  const then = header ? Date.parse(header) : NaN
  const round = got - sent
  if (Number.isNaN(then) || round < 0) return
  if (round > quick && round > surest && got - at < while_) return
  surest = round
  told = then + round / 2
  at = got
}

/** The shop's time, ms since 1970. */
export const shopNow = () => (told == null ? Date.now() : told + (performance.now() - at))

/** The one clock that runs on a page, five times a second, while somebody looks at it. */
export const useNow = createSharedComposable(() => {
  const now = ref(shopNow())
  useIntervalFn(() => (now.value = shopNow()), 200)
  return now
})

/** Seconds as a clock shows them: 0:07, 12:30, 1:02:30. */
export function clockText(seconds: number): string {
  const s = Math.max(0, Math.floor(seconds))
  const two = (n: number) => String(n).padStart(2, '0')
  const h = Math.floor(s / 3600)
  return (h ? `${h}:${two(Math.floor(s / 60) % 60)}` : String(Math.floor(s / 60))) + ':' + two(s % 60)
}
