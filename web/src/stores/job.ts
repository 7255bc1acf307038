import { defineStore } from 'pinia'
import { api, ask, Refused, type JobView, type Problem, type Schemas } from '@/api/client'
import { useOutbox, type Event, type EventData } from './outbox'

export type Intake = Schemas['JobIntake']
export type Choices = Schemas['JobChoices']

/** The job on the screen. */
export const useJob = defineStore('job', {
  state: () => ({
    job: null as JobView | null,
    normal: null as Schemas['JobNormal'] | null,
    /** Rises with every change, so that station views know to ask again. */
    revision: 0,
    problem: null as Problem | null,
    /** An edit that came too late: what was tried, and what is stored. */
    conflict: null as { part: 'intake' | 'choices'; mine: Intake | Choices; theirs: JobView } | null,
  }),
  getters: {
    system: (s) => s.job?.intake.system ?? null,
    isTrailer: (s) => !!s.job?.intake.system?.actuator,
    status: (s) => s.job?.status ?? null,
    released: (s) => !!s.job?.state.released_at,
  },
  actions: {
    take(view: JobView) {
      // An answer that comes late must not put back what is newer on the screen.
      if (this.job && (this.job.id !== view.id || view.head < this.job.head)) return
      const systemChanged = JSON.stringify(this.job?.intake.system) !== JSON.stringify(view.intake.system)
      this.job = view
      this.revision++
      if (systemChanged) void this.loadNormal()
    },
    async load(id: string) {
      if (this.job?.id !== id) {
        this.job = null
        this.normal = null
      }
      this.problem = null
      useOutbox().onStored = (view: JobView) => this.take(view)
      const view: JobView = await ask(api.GET('/api/jobs/{id}', { params: { path: { id } } }))
      this.take(view)
    },
    /** Looks whether someone else changed the job. */
    async look() {
      if (!this.job) return
      const view: JobView = await ask(api.GET('/api/jobs/{id}', { params: { path: { id: this.job.id } } }))
      if (this.job && view.head > this.job.head) this.take(view)
    },
    async loadNormal() {
      if (!this.job?.intake.system) return
      this.normal = await ask(api.GET('/api/jobs/{id}/normal', { params: { path: { id: this.job.id } } }))
    },
    send(kind: Event['kind'], data: EventData = {}): string {
      return useOutbox().send(this.job!.id, kind, data)
    },
    undo(of: string) {
      return this.send('undo', { of })
    },
    /** `from` is the version the edit started from: what others changed since is kept where it does not touch. */
    async saveChoices(choices: Choices, from?: number): Promise<boolean> {
      const path = { id: this.job!.id }
      const version = from ?? this.job!.choices_version
      return this.save('choices', choices, () =>
        ask(api.PUT('/api/jobs/{id}/choices', { params: { path }, body: { version, choices } })),
      )
    },
    async saveIntake(intake: Intake, from?: number): Promise<boolean> {
      const path = { id: this.job!.id }
      const version = from ?? this.job!.intake_version
      return this.save('intake', intake, () =>
        ask(api.PUT('/api/jobs/{id}/intake', { params: { path }, body: { version, intake } })),
      )
    },
    async save(part: 'intake' | 'choices', mine: Intake | Choices, put: () => Promise<JobView>): Promise<boolean> {
      this.problem = null
      try {
        this.take(await put())
        return true
      } catch (e) {
        if (!(e instanceof Refused)) throw e
        if (e.problem.code === 'problem.stale' && e.problem.current) {
          this.conflict = { part, mine, theirs: e.problem.current as JobView }
        } else {
          this.problem = e.problem
        }
        return false
      }
    },
    /** Ends a conflict: takes what is stored, or stores one's own over it knowingly. */
    async settle(keepMine: boolean) {
      const c = this.conflict
      if (!c) return
      this.conflict = null
      this.take(c.theirs)
      if (!keepMine) return
      if (c.part === 'intake') await this.saveIntake(c.mine as Intake)
      else await this.saveChoices(c.mine as Choices)
    },
    async release() {
      const params = { path: { id: this.job!.id } }
      return this.command(() => ask(api.POST('/api/jobs/{id}/release', { params })))
    },
    /** Takes a release back; the reason stays on every later sheet. */
    async reopen(reason: string) {
      const params = { path: { id: this.job!.id } }
      return this.command(() => ask(api.POST('/api/jobs/{id}/reopen', { params, body: { reason } })))
    },
    async command(call: () => Promise<JobView>) {
      this.problem = null
      try {
        this.take(await call())
      } catch (e) {
        if (!(e instanceof Refused)) throw e
        this.problem = e.problem
      }
    },
  },
})
