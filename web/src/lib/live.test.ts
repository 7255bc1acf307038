import { mount } from '@vue/test-utils'
import { defineComponent, ref } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useLive } from './live'

class Source {
  static made: Source[] = []
  static CLOSED = 2
  readyState = 1
  onerror: () => void = () => {}
  heard: Record<string, (e: unknown) => void> = {}
  closed = false
  constructor(readonly url: string) {
    Source.made.push(this)
  }
  addEventListener(kind: string, fn: (e: unknown) => void) {
    this.heard[kind] = fn
  }
  close() {
    this.closed = true
  }
}

describe('the live log', () => {
  beforeEach(() => {
    Source.made = []
    vi.stubGlobal('EventSource', Source)
    vi.useFakeTimers()
  })
  afterEach(() => vi.unstubAllGlobals())

  const on = () => {
    const id = ref('j')
    const changed = vi.fn()
    const w = mount(
      defineComponent({
        setup: () =>
          useLive(
            id,
            () => 7,
            () => 5,
            changed,
          ),
        render: () => null,
      }),
    )
    return { id, changed, w, here: () => w.vm.here, last: () => Source.made.at(-1)! }
  }

  it('asks from where the log here ends and tells only what is newer than the head', () => {
    const t = on()
    expect(t.last().url).toContain('/api/jobs/j/live')
    expect(t.last().url).toContain('since=5')
    t.last().heard.log({ lastEventId: '7' })
    expect(t.changed).not.toHaveBeenCalled()
    t.last().heard.log({ lastEventId: '8' })
    expect(t.changed).toHaveBeenCalledTimes(1)
  })

  it('names the others, not this screen itself', () => {
    const t = on()
    const mine = new URL(t.last().url, 'http://x').searchParams.get('tab')
    t.last().heard.here({
      data: JSON.stringify([
        { tab: mine, name: 'Me' },
        { tab: 'other', name: 'Piet' },
      ]),
    })
    expect(t.here()).toEqual([{ tab: 'other', name: 'Piet' }])
  })

  it('asks again when the browser has given up, and lets go when it is left', async () => {
    const t = on()
    t.last().readyState = Source.CLOSED
    t.last().onerror()
    await vi.advanceTimersByTimeAsync(5000)
    expect(Source.made).toHaveLength(2)
    t.id.value = 'k'
    await vi.advanceTimersByTimeAsync(1)
    expect(t.last().url).toContain('/api/jobs/k/live')
    t.w.unmount()
    expect(t.last().closed).toBe(true)
  })

  it('says that it is not live where nothing is heard, asks, and begins again', () => {
    vi.spyOn(performance, 'now').mockImplementation(() => Date.now())
    const t = on()
    t.last().heard.alive({})
    expect(t.w.vm.live).toBe(true)
    vi.advanceTimersByTime(15_000)
    t.last().heard.alive({}) // a sign of life
    vi.advanceTimersByTime(15_000)
    expect(Source.made).toHaveLength(1)
    expect(t.changed).not.toHaveBeenCalled()
    vi.advanceTimersByTime(10_000) // and then silence
    expect(t.changed).toHaveBeenCalledTimes(1)
    expect(Source.made).toHaveLength(2)
    expect(Source.made[0]!.closed).toBe(true)
    expect(t.w.vm.live).toBe(false)
    t.last().heard.alive({})
    expect(t.w.vm.live).toBe(true)
    vi.restoreAllMocks()
  })
})
