import { ref, watch, type Ref } from 'vue'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'
import { answer } from '@/core/answer'
import type { Answers } from '@/core/core'
import { useJob } from '@/stores/job'

type Views = Pick<Answers, 'diagnose' | 'match' | 'replace' | 'bench' | 'bleed' | 'verify' | 'record'>

/** A station's view from the core here. The catalogue is the server's: Match asks it first, and does with the units
 * it last offered where it cannot be reached. */
async function viewOf<K extends keyof Views>(name: K): Promise<Views[K]> {
  const store = useJob()
  const id = store.job!.id
  const path = `/api/jobs/{id}/${name}` as '/api/jobs/{id}/match'
  const server = async () => (await ask(api.GET(path, { params: { path: { id } } }))) as unknown as Views[K]
  if (name !== 'match') return answer(id, name, undefined, server)
  try {
    const v = await server()
    const m = v as Schemas['JobMatchView']
    store.shelf = [...m.candidates, ...m.boosters].map((c) => c.unit)
    return v
  } catch (e) {
    if (!(e instanceof Refused) || !e.offline) throw e
    return answer(id, name, undefined, server, store.shelf)
  }
}

/** What a station computes, asked for again whenever the job changes. */
export function useStation<K extends keyof Views>(name: K) {
  const store = useJob()
  const view = ref(null) as Ref<Views[K] | null>
  const problem = ref<Problem | null>(null)
  let asked = 0
  async function refresh() {
    if (!store.job) return
    const mine = ++asked
    try {
      const v = await viewOf(name)
      if (mine === asked) {
        view.value = v
        problem.value = null
      }
    } catch (e) {
      if (!(e instanceof Refused)) throw e
      if (mine === asked) problem.value = e.problem
    }
  }
  watch(() => store.revision, refresh, { immediate: true })
  return { view, problem, refresh }
}
