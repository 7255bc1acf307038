import { api, ask, type Schemas } from '@/api/client'
import { core, Late, NoCore, type OnPhoto } from '@/core/core'

/** What the tools in the pocket work out: here, or by the server where the core does not run in this browser. */
export async function either<T>(here: () => Promise<T>, there: () => Promise<T>): Promise<T> {
  try {
    return await here()
  } catch (e) {
    if (!(e instanceof NoCore)) throw e
    try {
      return await there()
    } catch (gone) {
      if (e instanceof Late) return (await e.coming) as T // slow here, and nobody else has the answer
      throw gone
    }
  }
}

export const tiltOf = (body: Schemas['MotionTiltIn']) =>
  either(
    () => core.tilt(body),
    () => ask(api.POST('/api/pocket/tilt', { body })),
  )
export const travelOf = (body: Schemas['MotionTravelIn']) =>
  either(
    () => core.travel(body),
    () => ask(api.POST('/api/pocket/travel', { body })),
  )
/** The server has no picture: it measures by the taps alone. */
export const onPhoto = (body: Schemas['PhotoAsk']): Promise<OnPhoto> =>
  either<OnPhoto>(
    () => core.tap(body),
    () => ask(api.POST('/api/pocket/photo', { body })),
  )
