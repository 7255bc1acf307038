import { reactive } from 'vue'
import type { Schemas } from '@/api/client'

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
