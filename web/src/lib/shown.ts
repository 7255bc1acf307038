import { reactive } from 'vue'
import type { Schemas, Unit } from '@/api/client'

/** What the Bleed station wants shown on the schematic beside it. */
const shown = reactive({
  current: '' as string | undefined,
  done: [] as string[],
  level: undefined as number | undefined,
  fluid: undefined as Schemas['JobFluidNow'] | undefined,
})

export function useBleedShown() {
  return shown
}

/** The plan as the Replace station shows it, for the drawing beside it. */
const replacing = reactive({ view: null as Schemas['JobReplaceView'] | null, hand: '' })
export const useReplaceShown = () => replacing

/** The unit looked at at Match, with the old one and the pedals of both, for the drawing beside it. */
interface MatchShown {
  c: Schemas['JobCandidateView'] | null
  old: Unit | null
  traces: { label: string; style: 'dashed' | 'thick' | 'thin'; points: { x: number; y: number }[] }[]
}
const matching = reactive<MatchShown>({ c: null, old: null, traces: [] })
export const useMatchShown = () => matching

/** The readings at Verify with the twin's band. */
interface VerifyShown {
  view: Schemas['JobVerifyView'] | null
  marks: { x: number; y: number }[]
}
const verifying = reactive<VerifyShown>({ view: null, marks: [] })
export const useVerifyShown = () => verifying

/** What was pointed at in the drawing beside the work; `n` rises with each tap, so that the same part can be tapped again. */
const pointed = reactive({ part: '', n: 0 })
export const usePointed = () => pointed
