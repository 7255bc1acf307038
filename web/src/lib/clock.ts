import { createSharedComposable, useIntervalFn } from '@vueuse/core'
import { ref } from 'vue'

// The shop's time is the server's: a tablet whose own clock is wrong shows a running timer as every other screen does.
let offset = 0
let surest = Infinity

/** Takes the server's time from an answer; the one that came back quickest is believed. */
export function heardTime(told: string | null, sent: number, got = Date.now()) {
  const at = told ? Date.parse(told) : NaN
  const round = got - sent
  if (Number.isNaN(at) || round < 0 || round > surest) return
  surest = round
  offset = at - (sent + round / 2)
}

/** The shop's time, ms since 1970. */
export const shopNow = () => Date.now() + offset

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
