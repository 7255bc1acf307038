import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { defineComponent, nextTick, ref } from 'vue'
import HoldTest from '@/components/diagnose/HoldTest.vue'
import RunningTimers from '@/components/RunningTimers.vue'
import TestClock from '@/components/diagnose/TestClock.vue'
import { clockText, heardTime, shopNow } from '@/lib/clock'
import { useRing, quiet } from '@/lib/ring'
import type { Timer } from '@/lib/timer'
import { i18n } from '@/lib/words'
import { useJob } from '@/stores/job'

const global = { plugins: [i18n] }
/** A job whose timers start and stop as the core's fold has them. */
function timed(id = 'j') {
  const store = useJob()
  store.job = { id, intake: { system: null }, state: { timers: [] } } as never
  let n = 0
  store.send = ((kind: string, data: { clock: string; about: string; of: string }) => {
    const at = new Date().toISOString()
    const timers = store.job!.state.timers!
    if (kind === 'timer_stopped') timers.find((x) => x.id === data.of)!.stopped_at = at
    else {
      const started = { id: `t${++n}`, clock: data.clock, about: data.about, seconds: 2, started_at: at, by: 'Mara' }
      store.job!.state.timers = [...timers.filter((x) => x.clock !== data.clock), started as Timer]
    }
    return 'e'
  }) as never
  return store
}

beforeEach(() => {
  setActivePinia(createPinia())
  localStorage.clear()
  vi.useFakeTimers()
})
afterEach(() => vi.useRealTimers())

it('a clock of a test says when its time is over, and is the same on a page that comes later', async () => {
  timed()
  const w = mount(TestClock, { props: { test: 'pump', seconds: 2 }, global })
  await w.find('[data-testid="test-clock"]').trigger('click')
  await vi.advanceTimersByTimeAsync(1200)
  expect(w.find('[role=status]').exists()).toBe(false)
  w.unmount()
  await vi.advanceTimersByTimeAsync(1000)
  const again = mount(TestClock, { props: { test: 'pump', seconds: 2 }, global })
  await vi.advanceTimersByTimeAsync(200)
  expect(again.find('[role=status]').exists()).toBe(true)
  again.unmount()
})

it('the hold test reads its seconds from the clock and keeps what is half typed', async () => {
  timed('hold-job')
  const w = mount(HoldTest, { props: { phase: 'verify' }, global })
  await w.find('[data-testid="hold-start"] input').setValue('120')
  await w.find('[data-testid="hold-clock"]').trigger('click')
  await vi.advanceTimersByTimeAsync(3400)
  await w.find('[data-testid="hold-clock"]').trigger('click')
  expect(w.find('[data-testid="hold-clock"]').text()).toMatch(/3\.[34] s/)
  w.unmount()
  const again = mount(HoldTest, { props: { phase: 'verify' }, global })
  await nextTick()
  expect((again.find('[data-testid="hold-start"] input').element as HTMLInputElement).value).toContain('120')
  expect(again.find('[data-testid="hold-clock"]').text()).toMatch(/3\.[34] s/)
  again.unmount()
})

it('a timer rings once when its time is up, and not for what was over before', async () => {
  let beeps = 0
  vi.stubGlobal(
    'AudioContext',
    class {
      currentTime = 0
      destination = {}
      createOscillator = () => ({ frequency: {}, connect() {}, start: () => beeps++, stop() {} })
      close = async () => {}
    },
  )
  const now = Date.now()
  const timer = (id: string, ago: number): Timer => ({
    id,
    clock: 'foam',
    about: '',
    seconds: 2,
    started_at: new Date(now - ago).toISOString(),
    by: 'Mara',
  })
  const timers = ref([timer('old', 5000), timer('new', 0)])
  const w = mount(defineComponent({ setup: () => useRing(timers), template: '<i>{{ last?.id }}</i>' }))
  await vi.advanceTimersByTimeAsync(1000)
  expect(beeps).toBe(0)
  await vi.advanceTimersByTimeAsync(2000)
  expect(beeps).toBe(3)
  expect(w.text()).toBe('new')
  await vi.advanceTimersByTimeAsync(3000)
  expect(beeps).toBe(3)
  quiet.value = true
  timers.value = [...timers.value, timer('third', 0)]
  await vi.advanceTimersByTimeAsync(3000)
  expect(beeps).toBe(3)
  quiet.value = false
  w.unmount()
})

it('running timers stand in a strip, and one that is over says so', async () => {
  const started = new Date(Date.now()).toISOString()
  const timers: Timer[] = [{ id: 'a', clock: 'soak', about: '', seconds: 20, started_at: started, by: 'Mara' }]
  const stopped: string[] = []
  const w = mount(RunningTimers, { props: { timers, stop: (of: string) => void stopped.push(of) }, global })
  await vi.advanceTimersByTimeAsync(10_000)
  expect(w.text()).toContain('0:10')
  await vi.advanceTimersByTimeAsync(11_000)
  await flushPromises()
  expect(w.find('[role=alert]').exists()).toBe(true)
  await w.find('[data-testid="timer-stop"]').trigger('click')
  expect(stopped).toEqual(['a'])
})

it('the shop’s time is the server’s', () => {
  const told = new Date(Date.now() + 90_000).toISOString()
  heardTime(told, performance.now() - 20)
  expect(Math.abs(shopNow() - Date.now() - 90_000)).toBeLessThan(50)
  heardTime(new Date(Date.now()).toISOString(), performance.now() - 5000) // slow: less sure
  expect(Math.abs(shopNow() - Date.now() - 90_000)).toBeLessThan(50)
  // The tablet's own clock is set while the page is open: no timer jumps.
  const before = shopNow()
  vi.setSystemTime(Date.now() + 86_400_000)
  expect(Math.abs(shopNow() - before)).toBeLessThan(50)
  heardTime(new Date(before + 3000).toISOString(), performance.now() - 20) // the latest quick answer is believed
  expect(Math.abs(shopNow() - before - 3000)).toBeLessThan(50)
  expect([clockText(7), clockText(750), clockText(3750)]).toEqual(['0:07', '12:30', '1:02:30'])
})
