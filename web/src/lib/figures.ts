import { computed, reactive } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'

export type Instrument = Schemas['ServerInstrumentView']
export type Kind = Instrument['kind']

/** The shop's instruments, and the figures of those that belong to the job that is open. */
export const figures = reactive({
  job: '',
  all: [] as Instrument[],
  /** By instrument: the last figure in our unit, and when it came. */
  live: {} as Record<string, { v: number; text?: string; heard: number }>,
})

let source: EventSource | null = null

/** Looks which instruments there are, and listens to those of this job. */
export async function listen(job: string) {
  if (figures.job !== job) Object.assign(figures, { job, live: {} })
  try {
    figures.all = await ask(api.GET('/api/instruments'))
  } catch (e) {
    if (!(e instanceof Refused)) throw e
    figures.all = []
  }
  source?.close()
  source = null
  if (!mine.value.length || typeof EventSource === 'undefined') return
  source = new EventSource(`/api/jobs/${job}/figures/live`)
  source.addEventListener('figures', (e) => {
    for (const f of JSON.parse(e.data as string) as { id: string; v: number; text?: string }[])
      figures.live[f.id] = { v: f.v, text: f.text, heard: Date.now() }
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

/** The instrument of a kind that belongs to this job, and its figure. */
export const ofKind = (kind: Kind) => mine.value.find((i) => i.kind === kind)
export const liveOf = (kind: Kind) => {
  const i = ofKind(kind)
  return i ? figures.live[i.id] : undefined
}

/** Gives an instrument to the job that is open, or takes it back. */
export async function attach(i: Instrument, here: boolean) {
  const path = { params: { path: { id: i.id } } }
  await ask(api.POST('/api/instruments/{id}/attach', { ...path, body: { job: here ? figures.job : '' } }))
  await listen(figures.job)
}
