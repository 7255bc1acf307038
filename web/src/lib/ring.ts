import { useLocalStorage, useVibrate, useWakeLock } from '@vueuse/core'
import { onBeforeUnmount, ref, watch, type Ref } from 'vue'
import { useNow } from '@/lib/clock'
import { isOver, type Timer } from '@/lib/timer'

/** Whether timers may be heard on this device. */
export const quiet = useLocalStorage('geminate.quiet', false)

const beeps = [0, 0.35, 0.7] // seconds from the first

const beep = () => sound(beeps.map((at) => ({ at, hz: 880, s: 0.2 })))

/** One tone. */
export const tone = (hz: number, s: number) => sound([{ at: 0, hz, s }])

function sound(tones: { at: number; hz: number; s: number }[]) {
  try {
    const audio = new AudioContext()
    for (const { at, hz, s } of tones) {
      const tone = audio.createOscillator()
      tone.frequency.value = hz
      tone.connect(audio.destination)
      tone.start(audio.currentTime + at)
      tone.stop(audio.currentTime + at + s)
    }
    setTimeout(() => void audio.close(), 2000)
  } catch {
    // No sound on this device: the words and the vibration are there.
  }
}

/** Rings once for each timer whose time is up; gives the one that rang last, for the words. */
export function useRing(timers: Ref<Timer[]>) {
  const now = useNow()
  const { vibrate, isSupported } = useVibrate({ pattern: [300, 150, 300, 150, 300] })
  const rang = new Set<string>()
  const last = ref<Timer | null>(null)
  let looked = false
  watch(
    () => timers.value.filter((t) => !t.stopped_at && isOver(t, now.value)).map((t) => t.id),
    (over) => {
      for (const id of over) {
        if (rang.has(id)) continue
        rang.add(id)
        last.value = timers.value.find((t) => t.id === id) ?? null
        // What was over before this page was opened is shown, and not rung again.
        if (!looked || quiet.value) continue
        beep()
        if (isSupported.value) vibrate()
      }
      looked = true
    },
    { immediate: true },
  )
  return { last }
}

/** Keeps the screen awake while something is counted or timed. */
export function useAwake(wanted: Ref<boolean>) {
  const { isSupported, request, release } = useWakeLock()
  watch(
    wanted,
    (on) => {
      if (!isSupported.value) return
      void (on ? request('screen') : release()).catch(() => {})
    },
    { immediate: true },
  )
  onBeforeUnmount(() => void release().catch(() => {}))
}
