import { ref, watch, type Ref } from 'vue'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { answer } from '@/core/answer'
import { useJob } from '@/stores/job'

type View = Schemas['JobDiagnoseView']

/** The diagnosis as stored, or as it would stand without some findings; nothing of that is stored. */
export function useWhatIf(stored: Ref<View | null>) {
  const job = useJob()
  const off = ref<string[]>([])
  const view = ref(stored.value) as Ref<View | null>
  let asked = 0
  watch([stored, off], async ([now]) => {
    const mine = ++asked
    if (!off.value.length || !job.job) {
      view.value = now
      return
    }
    try {
      const body = { without: off.value }
      const params = { path: { id: job.job.id } }
      const v = await answer(job.job.id, 'diagnose', body, () =>
        ask(api.POST('/api/jobs/{id}/diagnose', { params, body })),
      )
      if (mine === asked) view.value = v
    } catch (e) {
      if (!(e instanceof Refused)) throw e
      if (mine === asked) {
        off.value = []
        view.value = now
      }
    }
  })
  return { view, off }
}
