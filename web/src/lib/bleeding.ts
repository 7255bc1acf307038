import type { Schemas } from '@/api/client'
import { t } from '@/lib/words'

export { bleedStepName } from '@/lib/words'

export const methodName = (id: string, trailer: boolean) =>
  t(id === 'pedal' && trailer ? 'method.pedal_trailer' : 'method.' + id)

export type BleedView = Schemas['JobBleedView']
