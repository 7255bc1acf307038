import { defineStore } from 'pinia'
import { api, ask, Refused, type Problem, type Schemas } from '@/api/client'
import { answer } from '@/core/answer'
import { useJob } from './job'

export type PlayPoint = Schemas['JobPlayPoint']
export interface ShownFault {
  id: string
  at?: string
}

/** What is being tried on the twin. Nothing of it is stored: it explains, it does not record. */
export const useTwin = defineStore('twin', {
  state: () => ({
    open: false,
    step: 30,
    assist: true,
    failed: [] as string[],
    air: {} as Record<string, number>,
    fault: null as ShownFault | null,
    view: null as Schemas['JobPlayView'] | null,
    problem: null as Problem | null,
    asked: 0,
  }),
  getters: {
    now: (s): PlayPoint | null => s.view?.points[Math.min(s.step, s.view.points.length - 1)] ?? null,
    last: (s) => (s.view ? s.view.points.length - 1 : 100),
    tried: (s) => s.failed.length > 0 || !s.assist || Object.values(s.air).some((v) => v > 0),
  },
  actions: {
    reset() {
      this.assist = true
      this.failed = []
      this.air = {}
      return this.refresh()
    },
    toggle(circuit: string) {
      this.failed = this.failed.includes(circuit) ? this.failed.filter((c) => c !== circuit) : [...this.failed, circuit]
      return this.refresh()
    },
    press(by: number) {
      this.step = Math.max(0, Math.min(this.last, this.step + by))
    },
    async refresh() {
      const job = useJob().job
      if (!job || !this.open) return
      const mine = ++this.asked
      try {
        const body = {
          assist: this.assist,
          failed: this.failed,
          air_cm3: this.air,
          ...(this.fault ? { fault: this.fault.id, ...(this.fault.at ? { at: this.fault.at } : {}) } : {}),
        }
        const params = { path: { id: job.id } }
        const v = await answer(job.id, 'twin', body, () => ask(api.POST('/api/jobs/{id}/twin', { params, body })))
        if (mine === this.asked) {
          this.view = v
          this.problem = null
        }
      } catch (e) {
        if (!(e instanceof Refused)) throw e
        if (mine === this.asked) this.problem = e.problem
      }
    },
  },
})
