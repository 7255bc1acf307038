import { useDebounceFn, useIntervalFn } from '@vueuse/core'
import { onMounted, reactive, ref, watch } from 'vue'
import { keep, kept, keptJob } from '@/lib/local'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'

const every = 8000
const key = () => 'bay ' + (useSession().user?.id ?? '')

/** Jobs opened here that the server has not heard of yet. */
async function openedHere(): Promise<Schemas['JobCard'][]> {
  const account = useSession().user?.id ?? ''
  const outbox = useOutbox()
  const ids = [...new Set(outbox.mine.map((w) => w.job))].filter((id) => outbox.opening(id))
  const all = await Promise.all(ids.map((id) => keptJob(account, id)))
  return all.flatMap((k) => {
    if (!k) return []
    const { id, intake, created_at, updated_at, status } = k.job.view
    const { vehicle, plate, customer, complaint, system } = intake
    return [{ id, vehicle, plate, customer, complaint, system, created_at, updated_at, status } as Schemas['JobCard']]
  })
}

/** The jobs in the bay: a page of them, what narrows it, and how many there are of each kind. */
export function useBay() {
  const jobs = ref<Schemas['JobCard'][] | null>(null)
  const counts = ref<Schemas['StoreBayCount'][]>([])
  const next = ref('')
  /** Who has a job open, by job. */
  const here = ref<Record<string, string[]>>({})
  const query = reactive({ text: '', standing: '' as Schemas['JobStanding'] | '', station: '' })
  const problem = ref<Problem | null>(null)
  let pages = 1
  let asked = 0

  /** The bay is the day: what is open. What is over is found by looking for it. */
  const day = () => (query.text || query.standing ? query.standing : 'open')
  async function page(after: string, only = day()) {
    const standing = only || undefined
    const q = {
      text: query.text || undefined,
      standing,
      station: query.station || undefined,
      after: after || undefined,
    }
    return ask(api.GET('/api/jobs', { params: { query: q } }))
  }
  /** Asks for as many pages as are shown; an answer that was overtaken is dropped. */
  async function load() {
    const mine = ++asked
    try {
      const all: Schemas['JobCard'][] = []
      const at: Record<string, string[]> = {}
      let after = ''
      for (let i = 0; i < pages; i++) {
        const v = await page(after)
        if (mine !== asked) return
        all.push(...v.jobs)
        Object.assign(at, v.here)
        counts.value = v.counts
        after = next.value = v.next
        if (!after) break
      }
      // What is not to be driven stands first, however long ago it was touched.
      const apart = !query.text && !query.standing && counts.value.some((c) => c.standing === 'parked')
      const parked = apart ? (await page('', 'parked')).jobs : []
      if (mine !== asked) return
      jobs.value = [...parked, ...all.filter((j) => !parked.some((p) => p.id === j.id))]
      here.value = at
      problem.value = null
      if (!query.text && !query.standing) await keep(key(), { jobs: all, counts: counts.value })
    } catch (e) {
      if (!(e instanceof Refused)) throw e
      if (mine !== asked) return
      const last = await kept<{ jobs: Schemas['JobCard'][]; counts: Schemas['StoreBayCount'][] }>(key())
      if (mine !== asked) return
      jobs.value = narrowed([...(await openedHere()), ...(last?.jobs ?? [])])
      if (last) counts.value = last.counts
      next.value = ''
      here.value = {}
      problem.value = e.problem
    }
  }
  /** What was asked for, of the cards that are kept here. */
  function narrowed(cards: Schemas['JobCard'][]) {
    const want = query.text.toLowerCase().split(/\s+/).filter(Boolean)
    return cards.filter((j) => {
      const text = [j.vehicle, j.plate, j.customer, j.complaint].join(' ').toLowerCase()
      const standing = !query.standing || j.status.standing === query.standing
      return standing && (!query.station || j.status.at === query.station) && want.every((w) => text.includes(w))
    })
  }
  async function onward() {
    pages++
    await load()
  }
  function anew() {
    pages = 1
    if (query.standing !== 'open') query.station = ''
    void load()
  }
  watch(query, useDebounceFn(anew, 200))
  useIntervalFn(() => {
    if (document.visibilityState === 'visible') void load()
  }, every)
  onMounted(load)
  return { jobs, counts, here, next, query, problem, load, onward }
}
