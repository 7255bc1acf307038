import { computed, reactive } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { figure } from './units'
import { has, t } from './words'
import { useSession } from '@/stores/session'

export type Instrument = Schemas['ServerInstrumentView']
export type Kind = Instrument['kind']
export type Measured = Schemas['JobMeasured']

/** The shop's instruments, and the figures of those that belong to the job that is open. */
export const figures = reactive({
  job: '',
  all: [] as Instrument[],
  /** By instrument: the last figure in our unit, and when it was read, ms by this device's clock. */
  live: {} as Record<string, { v: number; text?: string; at: number }>,
})

let source: EventSource | null = null

/** Looks which instruments there are, and listens to those of this job. */
export async function listen(job: string) {
  if (figures.job !== job) Object.assign(figures, { job, live: {} })
  try {
    figures.all = useSession().may('read_jobs') ? await ask(api.GET('/api/instruments')) : []
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    figures.all = []
  }
  source?.close()
  source = null
  // One that belongs to no vehicle yet, or to another, may come to this one at any time: it is told on the same stream.
  if (!figures.all.length || typeof EventSource === 'undefined') return
  source = new EventSource(`/api/jobs/${job}/figures/live`)
  source.addEventListener('figures', (e) => {
    for (const f of JSON.parse(e.data as string) as { id: string; v: number; text?: string; age_s: number }[])
      figures.live[f.id] = { v: f.v, text: f.text, at: Date.now() - 1000 * f.age_s }
  })
  // Another vehicle fetched one, or one came here: its figures are no longer, or only now, this one's.
  source.addEventListener('changed', () => void listen(job))
}

export function stopListening() {
  source?.close()
  source = null
  figures.job = ''
}

/** Those that belong to this job. */
export const mine = computed(() => figures.all.filter((i) => i.job && i.job === figures.job))

/** The instrument of a kind that speaks at this job (of two the one that came last), and its figure. */
export const ofKind = (kind: Kind) => mine.value.find((i) => i.kind === kind && i.speaks)
export const liveOf = (kind: Kind) => {
  const i = ofKind(kind)
  return i ? figures.live[i.id] : undefined
}

/** How old a figure may be to count as now, ms: what acts by itself never acts on one that was left lying. */
const freshMS = 5000
export const freshOf = (kind: Kind) => {
  const f = liveOf(kind)
  return f && Date.now() - f.at < freshMS ? f : undefined
}

/** A figure in words; what no unit of the table fits has its own. */
export function figureOf(i: Instrument, v: number): string {
  const own = 'instrument_unit.' + i.measure.ours
  return has(own) ? `${Math.round(100 * v) / 100} ${t(own)}` : figure(i.measure.ours, v, useSession().pref)
}

/** An instrument as a reading names it. */
export const measuredBy = (i: Instrument, trace?: string): Measured => ({
  id: i.id,
  name: i.name,
  kind: i.kind,
  ...(i.holds_until && { holds_until: i.holds_until }),
  ...(trace && { trace }),
})

/** Figures that were taken by a tap: a reading that has one of them was measured, and not typed. */
const taken: { kind: Kind; v: number; by: Measured; at: number }[] = []
const takenForMS = 10 * 60_000
export function remember(i: Instrument, v: number) {
  taken.push({ kind: i.kind, v, by: measuredBy(i), at: Date.now() })
  if (taken.length > 40) taken.shift()
}
/** The same of this phone on the pedal, which is on nobody's list: the core knows it by its id. */
export function rememberPhone(v: number) {
  const id = useSession().vocabulary?.phone_id ?? ''
  taken.push({ kind: 'travel', v, by: { id, name: t('phone.name'), kind: 'travel' }, at: Date.now() })
}
const leaves = (x: unknown): number[] =>
  typeof x === 'number' ? [x] : x && typeof x === 'object' ? Object.values(x).flatMap(leaves) : []

/** Which instrument told the figure of a finding; none where it was typed, or changed since. */
export function takenFor(finding: string, value: unknown): { measured?: Measured } {
  const kinds = useSession().vocabulary?.tells?.[finding] ?? []
  const figures = leaves(value)
  const is = (x: (typeof taken)[number]) =>
    kinds.includes(x.kind) && figures.includes(x.v) && Date.now() - x.at < takenForMS
  const found = [...taken].reverse().find(is)
  return found ? { measured: found.by } : {}
}

/** Gives an instrument to the job that is open, or takes it back. */
export async function attach(i: Instrument, here: boolean) {
  const path = { params: { path: { id: i.id } } }
  await ask(api.POST('/api/instruments/{id}/attach', { ...path, body: { job: here ? figures.job : '' } }))
  await listen(figures.job)
}
