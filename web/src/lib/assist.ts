import type { Schemas, System } from '@/api/client'
import { useSession } from '@/stores/session'

/** A kind nobody has told of yet: nothing is drawn of it and nothing asked. */
const unknown: Schemas['SystemAssist'] = {
  kind: 'none',
  unit: '',
  vacuum: false,
  pressure: false,
  steering: false,
  one_piece: false,
  simulator: false,
  tool_led: false,
}

/** What a system's kind of booster has, by the core's one row for it. */
export function assistOf(s: System | null | undefined): Schemas['SystemAssist'] {
  const kind = s?.booster?.kind ?? 'none'
  return useSession().vocabulary?.assists?.find((a) => a.kind === kind) ?? unknown
}

export const powered = (a: Schemas['SystemAssist']) => a.vacuum || a.pressure
