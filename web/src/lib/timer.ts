import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { useNow } from '@/lib/clock'
import { useJob } from '@/stores/job'

export type Timer = Schemas['JobTimer']

/** How long a timer has run, s. */
export function ran(t: Timer, now: number): number {
  const until = t.stopped_at ? Date.parse(t.stopped_at) : now
  return Math.max(0, (until - Date.parse(t.started_at)) / 1000)
}

export const isOver = (t: Timer, now: number) => t.seconds > 0 && ran(t, now) >= t.seconds

/** One timer of the job on the screen. It is an event: leaving, reloading, another screen change nothing about it. */
export function useTimer(clock: Timer['clock'], about: () => string = () => '') {
  const store = useJob()
  const now = useNow()
  const timer = computed(() => store.job?.state.timers?.find((t) => t.clock === clock && t.about === about()))
  const running = computed(() => !!timer.value && !timer.value.stopped_at)
  const elapsed = computed(() => (timer.value ? ran(timer.value, now.value) : 0))
  const over = computed(() => !!timer.value && isOver(timer.value, now.value))
  function start(seconds?: number, maker?: string) {
    store.send('timer_started', { clock, about: about(), ...(seconds ? { seconds } : {}), ...(maker ? { maker } : {}) })
  }
  function stop() {
    if (timer.value) store.send('timer_stopped', { of: timer.value.id })
  }
  return { timer, running, elapsed, over, start, stop, toggle: () => (running.value ? stop() : start()) }
}
