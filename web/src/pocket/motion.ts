import { useEventListener, useIntervalFn } from '@vueuse/core'
import { ref } from 'vue'

export interface Sample {
  s: number
  x: number
  y: number
  z: number
}

/** iPhones ask by a tap, and tell gravity the other way round. */
type Asks = { requestPermission?: () => Promise<'granted' | 'denied'> }
const asks = () => (typeof DeviceMotionEvent === 'undefined' ? undefined : (DeviceMotionEvent as unknown as Asks))

/** How it is with the motion sensor: it has to be allowed by a tap first, is waited for, is here, is not there, was not allowed. */
export type Sensor = 'allow' | 'asked' | 'here' | 'none' | 'refused'

const silentS = 1.5

/** Allowed once, it is for as long as the page stands. */
let allowed = false

/** The phone's motion sensor while a component is there: acceleration with gravity in it, the last seconds of it. */
export function useMotion(keptS: number) {
  const request = asks()?.requestPermission
  const turned = request ? -1 : 1
  const state = ref<Sensor>(request && !allowed ? 'allow' : 'asked')
  const samples: Sample[] = []
  useEventListener(window, 'devicemotion', (e: DeviceMotionEvent) => {
    const a = e.accelerationIncludingGravity
    if (state.value === 'allow' || state.value === 'refused') return
    if (a?.x == null || a.y == null || a.z == null) return
    state.value = 'here'
    const s = performance.now() / 1000
    samples.push({ s, x: turned * a.x, y: turned * a.y, z: turned * a.z })
    while (samples.length && samples[0]!.s < s - keptS) samples.shift()
  })
  // A sensor at rest tells as often as one that is shaken. One that is silent is not there: a desk, a page that is not secure, or it was
  // taken away meanwhile, and what it told last is no reading of now.
  let from = performance.now() / 1000
  useIntervalFn(() => {
    const now = performance.now() / 1000
    if ((state.value !== 'asked' && state.value !== 'here') || now - Math.max(from, samples.at(-1)?.s ?? 0) < silentS)
      return
    samples.length = 0
    state.value = 'none'
  }, 500)
  /** Asks for it: only in a tap does an iPhone answer. */
  async function allow() {
    const said = await request!.call(DeviceMotionEvent).catch(() => 'denied')
    allowed = said === 'granted'
    from = performance.now() / 1000
    state.value = allowed ? 'asked' : 'refused'
  }
  /** The last so many seconds. */
  const last = (seconds: number) => {
    const from = (samples.at(-1)?.s ?? 0) - seconds
    return samples.filter((p) => p.s >= from)
  }
  return { state, allow, last }
}
