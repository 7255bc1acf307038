import { computed, reactive, ref, watch, type Ref } from 'vue'
import { core } from '@/core/core'
import { freshOf, liveOf, measuredBy, ofKind, type Measured } from './figures'

/** How long what was counted is kept, s. */
const keptS = 15

export type ByItself = ReturnType<typeof useByItself>

/**
 * Strokes that count themselves by a foot switch, and what they bring by a scale. Counting is asked for, at each wheel anew: a foot that
 * pumps with no bleeder open is no opening. A tap ends it, so that no stroke is told by both.
 */
export function useByItself(
  at: Ref<string>,
  gapS: () => number,
  count: (n: number, by: Measured) => void,
  byTravel: () => boolean = () => false,
) {
  const on = ref(false)
  const foot = computed(() => ofKind('foot_switch'))
  /** Where each stroke is one with the bleeder open, the pedal's own travel tells it as well. */
  const travel = computed(() => (!foot.value && byTravel() ? ofKind('travel') : undefined))
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
  watch(on, () => {
    was = liveOf('foot_switch')?.v
    drawn = []
    upTo = Date.now() / 1000
  })
  let drawn: { s: number; v: number }[] = []
  let upTo = 0
  let asking = false
  watch(
    () => liveOf('travel'),
    async (f) => {
      if (!on.value || !travel.value || !f) return
      drawn.push({ s: f.at / 1000, v: f.v })
      if (asking || drawn.length % 4) return
      asking = true
      // What was counted is kept for a while: how far the pedal goes is known by it.
      drawn = drawn.filter((p) => p.s > upTo - keptS)
      const told = await core.strokes(drawn, upTo).catch(() => null)
      asking = false
      if (!told?.n || !on.value || !travel.value) return
      upTo = told.up_to_s
      if (Date.now() - last < 1000 * gapS()) return
      last = Date.now()
      count(told.n, measuredBy(travel.value))
    },
  )
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
  // What one told at another vehicle is none of this one's: it begins anew with each time it comes here.
  watch(
    () => [scale.value?.id, scale.value?.attached_at],
    () => (stood = grams.value),
  )
  watch(
    () => [foot.value?.id, foot.value?.attached_at],
    () => (was = undefined),
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
  /** Whoever taps takes over: nothing counts by itself any more. Just after a stroke that did, the tap is that stroke. */
  function tapped(): boolean {
    if (on.value && Date.now() - last < 1000 * gapS()) return false
    on.value = false
    return true
  }
  return reactive({ on, foot, travel, scale, grams, weigh, tapped })
}
