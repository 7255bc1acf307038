import { ref, watch, type Ref } from 'vue'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'
import { useJob } from '@/stores/job'

interface Views {
  diagnose: Schemas['JobDiagnoseView']
  match: Schemas['JobMatchView']
  replace: Schemas['JobReplaceView']
  bench: Schemas['JobBenchView']
  bleed: Schemas['JobBleedView']
  verify: Schemas['JobVerifyView']
  record: Schemas['ServerRecordView']
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
      const path = `/api/jobs/{id}/${name}` as '/api/jobs/{id}/diagnose'
      const v = await ask(api.GET(path, { params: { path: { id: store.job.id } } }))
      if (mine === asked) {
        view.value = v as unknown as Views[K]
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
