import type { JobView } from '@/api/client'
import { useOutbox } from '@/stores/outbox'

export interface Known {
  value: unknown
  sure: boolean
}

/** Findings of a phase, with what was tapped a moment ago laid over until the core has folded it in. */
export function findingsOf(job: JobView, phase: string): Record<string, Known> {
  const out: Record<string, Known> = {}
  const stored = (job.state.findings as Record<string, Record<string, { value?: unknown; sure?: boolean | null }>>)[
    phase
  ]
  for (const [id, f] of Object.entries(stored ?? {})) out[id] = { value: f.value, sure: f.sure !== false }
  for (const e of useOutbox().of(job.id)) {
    const d = e.data
    if (e.kind !== 'finding' || d.phase !== phase || !d.finding) continue
    if (d.value === undefined) delete out[d.finding]
    else out[d.finding] = { value: d.value, sure: d.sure !== false }
  }
  return out
}
