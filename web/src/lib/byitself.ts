import { computed, reactive, ref, watch, type Ref } from 'vue'
import { freshOf, liveOf, measuredBy, ofKind, type Measured } from './figures'

export type ByItself = ReturnType<typeof useByItself>

/**
 * Strokes that count themselves by a foot switch, and what they bring by a scale. Counting is asked for, at each wheel anew: a foot that
 * pumps with no bleeder open is no opening. What was tapped and what the switch says within one stroke's time is one stroke.
 */
export function useByItself(at: Ref<string>, gapS: () => number, count: (n: number, by: Measured) => void) {
  const on = ref(false)
  const foot = computed(() => ofKind('foot_switch'))
  const scale = computed(() => ofKind('scale'))
  const grams = computed(() => liveOf('scale')?.v)
  let was: number | undefined
  let last = 0
  /** What stood on the scale when the last stroke was told; strokes are weighed by what came since. */
  let stood: number | undefined
  watch(at, () => {
    on.value = false
    stood = grams.value
  })
  watch(on, () => (was = liveOf('foot_switch')?.v))
  watch(
    () => freshOf('foot_switch')?.v,
    (now) => {
      const more = now != null && was != null ? Math.round(now - was) : 0
      if (now != null) was = now
      // A switch that began anew counts from there.
      if (!on.value || more < 1 || !foot.value) return
      if (Date.now() - last < 1000 * gapS()) return
      last = Date.now()
      count(more, measuredBy(foot.value))
    },
  )
  watch(
    () => scale.value?.id,
    () => (stood = grams.value),
  )
  watch(grams, (now) => (stood ??= now), { immediate: true })
  /** A bottle that was changed or emptied weighs nothing of this stroke: noise alone goes down by less. */
  const changedG = -20
  function weigh(): { weighed?: { grams: number; celsius?: number; by: Measured } } {
    const now = freshOf('scale')?.v
    const before = stood
    if (now == null || !scale.value) return {}
    stood = now
    if (before == null || now - before < changedG) return {}
    const celsius = freshOf('thermometer')?.v
    const by = measuredBy(scale.value)
    return {
      weighed: { grams: Math.max(0, Math.round(10 * (now - before)) / 10), ...(celsius != null && { celsius }), by },
    }
  }
  return reactive({ on, foot, scale, grams, weigh, tapped: () => (last = Date.now()) })
}
