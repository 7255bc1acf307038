import { onMounted, ref, type Ref } from 'vue'
import { Refused, type Problem } from '@/api/client'

/** What a page asks of the server: its answer, whether it is on its way, and what is wrong where it was refused. */
export function useAsked<T>(fetch: () => Promise<T>) {
  const value = ref(null) as Ref<T | null>
  const problem = ref<Problem | null>(null)
  const busy = ref(false)
  async function run<R>(what: () => Promise<R>): Promise<R | undefined> {
    busy.value = true
    try {
      const v = await what()
      problem.value = null
      return v
    } catch (e) {
      if (!(e instanceof Refused)) throw e
      problem.value = e.problem
      return undefined
    } finally {
      busy.value = false
    }
  }
  let asked = 0
  async function load() {
    const mine = ++asked
    const v = await run(fetch)
    if (v !== undefined && mine === asked) value.value = v // a slow answer to an older question is not shown
  }
  /** Does something and reads again. */
  async function act<R>(what: () => Promise<R>): Promise<R | undefined> {
    const out = await run(what)
    if (out !== undefined || !problem.value) await load()
    return out
  }
  onMounted(load)
  return { value, problem, busy, load, act }
}
