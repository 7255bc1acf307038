import { keepsNothing } from './local'
import { own } from './own'
import { useSession } from '@/stores/session'

/** An edit that is not stored yet, with the version it began from. */
export interface Draft<T> {
  base: number
  value: T
  /** Said to be stored, though the server could not be reached: it counts here already and goes out first. */
  said: boolean
}

export type Part = 'intake' | 'choices'

const key = (part: Part, job: string) => `geminate.${part}.${useSession().user?.id ?? ''}.${job}`

/** Drafts of this account on this device: what is typed survives a reload, and is nobody else's. */
export const drafts = {
  get<T>(part: Part, job: string): Draft<T> | null {
    try {
      return JSON.parse(own.get(key(part, job)) ?? 'null') as Draft<T> | null
    } catch {
      return null
    }
  },
  put<T>(part: Part, job: string, draft: Draft<T>) {
    // A draft that lives as long as the page alone is told: what is typed is not kept.
    if (!own.set(key(part, job), JSON.stringify(draft))) keepsNothing.value = true
  },
  drop(part: Part, job: string) {
    own.remove(key(part, job))
  },
}

const turns = new Map<string, Promise<unknown>>()

/** One save of a part at a time: two under one version would look like two people's. */
export function inTurn<T>(part: Part, job: string, save: () => Promise<T>): Promise<T> {
  const k = key(part, job)
  const next = (turns.get(k) ?? Promise.resolve()).then(save, save)
  turns.set(k, next)
  return next
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)

/**
 * A draft was refused as sent: `fall` says what becomes of it. What was typed since is no part of the refusal and stays: half a
 * figure (the 7 of 7/8) may be refused while the rest of it is being typed.
 */
export function draftRefused<T>(part: Part, job: string, sent: T, fall: (draft: Draft<T>) => void) {
  const now = drafts.get<T>(part, job)
  if (now && same(now.value, sent)) fall(now)
}

/** A draft was stored as sent, and is `version` now: it goes, or what was typed since goes on from there. */
export function draftStored(part: Part, job: string, sent: unknown, version: number) {
  const now = drafts.get(part, job)
  if (!now) return
  if (same(now.value, sent)) drafts.drop(part, job)
  else drafts.put(part, job, { ...now, base: version })
}
