import type { Schemas } from '@/api/client'
import { attempt, keep, kept, local, write } from './local'
import { useSession } from '@/stores/session'

/** Free practice as it is kept on this device: the number its vehicle is drawn by, and what was done to it. */
export type OwnPractice = Schemas['PracticeOwn'] & {
  /** More was done here than the server knows. */
  ahead: boolean
  ended?: boolean
  started: string
}

const begin = () => `practice.${useSession().user?.id ?? ''}.`

export const ownPractice = {
  of: (job: string) => kept<OwnPractice>(begin() + job),
  keep: (job: string, own: OwnPractice) => keep(begin() + job, own),
  drop: (job: string) => write(() => local.kept.delete(begin() + job)),
  async all(): Promise<{ job: string; own: OwnPractice }[]> {
    const rows = (await attempt(() => local.kept.where('key').startsWith(begin()).toArray())) ?? []
    return rows.map((r) => ({ job: r.key.slice(begin().length), own: r.value as OwnPractice }))
  },
}
