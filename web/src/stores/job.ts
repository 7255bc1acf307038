import { assistOf } from '@/lib/assist'
import { defineStore } from 'pinia'
import { api, ask, Refused, type JobView, type Problem, type Schemas, type Unit } from '@/api/client'
import { answer } from '@/core/answer'
import { core, coreUp, Late, NoCore, type Known, type LogEvent, type News, type Shown } from '@/core/core'
import { drafts, draftStored, type Part } from '@/lib/drafts'
import { keepEvents, keepJob, keptJob } from '@/lib/local'
import { later, useOutbox, type Event, type EventData, type Told } from './outbox'
import { useSession } from './session'

export type Intake = Schemas['JobIntake']
export type Choices = Schemas['JobChoices']

/** An edit that met someone else's: the fields that clash, and both edits together, those fields either way. */
export interface Clash {
  part: Part
  clashes: Schemas['JobClash'][]
  withMine: Intake | Choices
  withTheirs: Intake | Choices
  theirs: JobView
}

function clashOf(part: Part, mine: Intake | Choices, p: Problem): Clash {
  const theirs = p.current as JobView
  const both = p as { with_mine?: Intake | Choices; with_theirs?: Intake | Choices }
  return {
    part,
    theirs,
    clashes: p.clashes ?? [],
    withMine: both.with_mine ?? mine,
    withTheirs: both.with_theirs ?? theirs[part],
  }
}

/** Events heard within this many ms are handed on as one. */
const together = 15
let soon: ReturnType<typeof setTimeout> | undefined
let heard: LogEvent[] = []

/** The job on the screen. */
export const useJob = defineStore('job', {
  state: () => ({
    /** As it stands with what waits to be sent. */
    job: null as JobView | null,
    /** As the server last answered it whole; the core has it further on, by the log. */
    stored: null as JobView | null,
    /** How far the job is known here as the server has it, and up to where its log is here without a gap. */
    head: 0,
    have: 0,
    /** The core is not here, or is older than the server's rules: whole answers of the server are shown. */
    plain: false,
    /** This page is older than the shop's program. */
    tooOld: false,
    /** The versions of the parts that are on the screen: an edit begins from what was seen, not from what has come in since. */
    seen: { intake: 0, choices: 0 },
    shelf: [] as Unit[],
    /** The shop's settings and experience the job is looked at with. */
    dress: null as Schemas['JobDress'] | null,
    /** The last edit did not reach the server: it counts here, and the bar at the top says that it waits. */
    unreached: false,
    /** Nothing of this job was heard from the server since it was opened: what is shown was kept here. */
    kept: false,
    /** The job is drawn as the server has it, while the core starts. */
    starting: false,
    /** What waits and the core would not take: it is sent all the same, and the server says why. */
    doubted: [] as { id: string; problem: Problem }[],
    normal: null as Schemas['JobNormal'] | null,
    /** Rises with every change, so that station views know to ask again. */
    revision: 0,
    problem: null as Problem | null,
    /** An edit that came too late: what was tried, and what is stored. */
    conflict: null as Clash | null,
    /** A change of mind that would undo work: what would have to be done again, while the person is asked. */
    falls: null as { again: string[]; say: (go: boolean) => void } | null,
  }),
  getters: {
    system: (s) => s.job?.intake.system ?? null,
    isTrailer: (s) => s.job?.vehicle_kind === 'trailer',
    /** The bound of what presses here: a foot or a coupler. */
    pressed: (s) => (s.job?.intake.system?.actuator ? 'pressed.coupler_n' : 'pressed.foot_n'),
    /** What this vehicle's kind of booster has, by the core's row. */
    assist: (s) => assistOf(s.job?.intake.system),
    status: (s) => s.job?.status ?? null,
    released: (s) => !!s.job?.state.released_at,
  },
  actions: {
    /** Takes a whole answer of the server. */
    async take(view: JobView, events: LogEvent[] = []) {
      // An answer that comes late must not put back what is newer on the screen.
      if (this.stored && (this.stored.id !== view.id || view.head < this.head)) return
      this.stored = view
      this.kept = false
      this.early(view)
      await this.confirm({ id: view.id, view, events, dress: this.dress })
      this.starting = false
      await this.keepHere()
    },
    /** The core may take seconds to start here: until it has, the job is drawn as the server has it. */
    early(view: JobView) {
      if (coreUp() || this.job || useOutbox().of(view.id).length || this.edits().length) return
      this.job = view
      this.starting = true
      this.revision++
      void this.loadNormal()
    },
    /** Takes what came of events that were sent: they as they were stored, and the whole only where it was asked for. */
    async told(said: Told) {
      if (this.stored?.id !== said.id) return
      if (said.view) return this.take(said.view, said.events)
      await this.follow(said.events)
      if (said.head > this.head && !this.plain) await this.fill()
    },
    /** Follows the log by events that were stored, by whoever. */
    async follow(events: LogEvent[]) {
      if (!events.length || !this.stored) return
      this.keepLog(this.stored.id, events)
      await this.confirm({ id: this.stored.id, events })
      // The server is there again: what was kept of the job is looked at anew, with the shop's settings and its shelf.
      if (this.kept) await this.look().catch(() => {})
    },
    /** Fetches what is missing of the log. */
    async fill() {
      const id = this.stored!.id
      const events = await this.fetchLog(id).catch(() => [])
      if (this.stored?.id === id) await this.follow(events)
    },
    /** Tells the core what the server said, and shows what came of it, where anything did. */
    async confirm(news: News): Promise<void> {
      let known: Known | null = null
      try {
        if (!this.tooOld) known = await core.confirm(news)
      } catch (e) {
        // A kind of event it has never heard of is a newer program's, as is a view folded by newer rules.
        if (!(e instanceof NoCore || e instanceof Refused)) throw e
        if (e instanceof Refused) this.tooOld = true
        // Slow, and no server to say it instead: it is waited for.
        else if (e instanceof Late && (this.kept || !(await this.whole())))
          known = await (e.coming as Promise<Known>).catch(() => null)
      }
      if (this.stored?.id !== news.id) return
      if (known?.newer) this.tooOld = true
      if (!known || known.newer) {
        this.plain = true
        if (news.view) this.head = Math.max(this.head, news.view.head)
        else if (!(await this.whole())) return
        return this.show()
      }
      this.plain = false
      this.have = known.have
      if (known.short) {
        const before = known.have
        const events = await this.fetchLog(news.id).catch(() => [])
        if (events.length && this.stored?.id === news.id) {
          this.keepLog(news.id, events)
          if (events.at(-1)!.seq > before) return this.confirm({ ...news, events })
        }
        // The rest of the log cannot be had now: what was last said whole is better than nothing.
      }
      this.head = Math.max(this.head, known.head)
      if (!known.same || !this.job) await this.show()
    },
    /** Asks the server for the whole job, where the core cannot follow its log. */
    async whole(): Promise<boolean> {
      const params = { path: { id: this.stored!.id } }
      const view = await ask(api.GET('/api/jobs/{id}', { params })).catch(() => null)
      if (!view || this.stored?.id !== view.id || view.head < this.head) return false
      this.stored = view
      this.head = view.head
      this.kept = false
      return true
    },
    /** Appends what was heard to the log kept in the browser. */
    keepLog(id: string, events: LogEvent[]) {
      const account = useSession().user?.id
      if (account) void keepEvents(account, id, events)
    },
    /** Keeps the job in the browser, for when the server is away. */
    async keepHere() {
      const account = useSession().user?.id
      const view = this.stored
      if (!account || !view || this.kept) return
      await keepJob({ account, id: view.id, view, shelf: this.shelf, dress: this.dress, seen: Date.now() })
    },
    /** Shows the job with what waits folded onto it. */
    async show() {
      const view = this.stored
      const user = useSession().user
      if (!view) return
      let now = view
      let seen = { intake: view.intake_version, choices: view.choices_version }
      if (!this.plain) {
        try {
          const by = { id: user?.id ?? '', name: user?.display ?? '', role: user?.role ?? 'trainee' }
          const edits = this.edits().map((e) => ({ part: e.part, value: e.draft.value }))
          const shown = await core.show(view.id, by, useOutbox().of(view.id), edits).catch((e) => {
            // Slow: what is drawn stays drawn until it answers. Without what waits it would look undone.
            if (!(e instanceof Late)) throw e
            return e.coming as Promise<Shown>
          })
          now = shown.view
          seen = { intake: shown.intake_version, choices: shown.choices_version }
          this.doubted = shown.refused
        } catch (e) {
          if (!(e instanceof NoCore || e instanceof Refused)) throw e
        }
      }
      if (this.stored?.id !== view.id) return
      const systemChanged = JSON.stringify(this.job?.intake.system) !== JSON.stringify(now.intake.system)
      this.job = now
      this.seen = seen
      this.revision++
      if (systemChanged) void this.loadNormal()
    },
    /** Edits that count here already and are not stored yet; they go out before anything else of the job. */
    edits() {
      const id = this.stored!.id
      const parts: Part[] = ['intake', 'choices']
      return parts.flatMap((part) => {
        const draft = drafts.get<Intake | Choices>(part, id)
        return draft?.said ? [{ part, draft }] : []
      })
    },
    async load(id: string) {
      if (this.stored?.id !== id)
        Object.assign(this, {
          job: null,
          stored: null,
          normal: null,
          head: 0,
          have: 0,
          shelf: [],
          dress: null,
          doubted: [],
          starting: false,
        })
      this.problem = null
      heard = []
      const outbox = useOutbox()
      outbox.onStored = (said) => this.told(said)
      outbox.onEdited = (view) => this.take(view)
      outbox.wantsWhole = () => this.plain
      outbox.onChange = (job) => void (job === this.stored?.id && this.show())
      outbox.onStale = (job, problem) => job === this.stored?.id && this.clash(problem)
      try {
        const view: JobView = await ask(api.GET('/api/jobs/{id}', { params: { path: { id } } }))
        this.dress = await ask(api.GET('/api/jobs/{id}/dress', { params: { path: { id } } })).catch(() => null)
        const events = await this.fetchLog(id)
        this.keepLog(id, events)
        await this.take(view, events)
        void this.loadShelf()
      } catch (e) {
        // Away, or not told of it yet: it was opened here.
        if (!(e instanceof Refused) || !(e.offline || e.status >= 500 || outbox.opening(id))) throw e
        if (!(await this.loadKept(id))) throw e
      }
    },
    /** What was kept here of a job, for when the server cannot be reached. */
    async loadKept(id: string): Promise<boolean> {
      const kept = await keptJob(useSession().user?.id ?? '', id)
      if (!kept) return false
      const { view, shelf, dress = null } = kept.job
      Object.assign(this, { stored: view, shelf, dress, kept: true })
      await this.confirm({ id, view, events: kept.log, dress })
      return !!this.job
    },
    /** The units that come into question, kept for matching without the server. */
    async loadShelf() {
      const id = this.stored!.id
      if (!this.stored!.intake.system) return
      const m = await ask(api.GET('/api/jobs/{id}/shelf', { params: { path: { id } } })).catch(() => null)
      if (!m || this.stored?.id !== id) return
      this.shelf = m.units
      await this.keepHere()
    },
    async fetchLog(id: string): Promise<LogEvent[]> {
      const out: LogEvent[] = []
      for (let since = this.have; ; since = out.at(-1)!.seq) {
        const page = await ask(api.GET('/api/jobs/{id}/log', { params: { path: { id }, query: { since } } }))
        out.push(...(page.events as unknown as LogEvent[]))
        if (!page.more) return out
      }
    },
    /** An event of the log that was heard live; those that come together are handed on as one. */
    heard(e: LogEvent) {
      if (!this.stored) return
      heard.push(e)
      clearTimeout(soon)
      soon = setTimeout(() => {
        const events = heard
        heard = []
        void this.follow(events)
      }, together)
    },
    /** Asks the server how the job stands: what was kept may be old, and news may not have come. */
    async look() {
      if (!this.stored) return
      const view: JobView = await ask(api.GET('/api/jobs/{id}', { params: { path: { id: this.stored.id } } }))
      if (this.stored && (view.head > this.head || this.kept)) await this.take(view)
    },
    async loadNormal() {
      if (!this.job?.intake.system) return
      const params = { path: { id: this.job.id } }
      this.normal = await answer(this.job.id, 'normal', undefined, () =>
        ask(api.GET('/api/jobs/{id}/normal', { params })),
      )
    },
    send(kind: Event['kind'], data: EventData = {}, id?: string): string {
      // What is told says which log its teller had seen: a colleague's work after that was not known to them.
      return useOutbox().send(this.job!.id, kind, data, id, this.head)
    },
    /** Takes an event back: one that has not left yet simply never happened. */
    async undo(of: string) {
      if (!(await useOutbox().takeBack(of))) this.send('undo', { of })
    },
    /** `from` is the version the edit started from: what others changed since is kept where it does not touch. */
    async saveChoices(choices: Choices, from?: number): Promise<boolean> {
      const path = { id: this.job!.id }
      const version = from ?? this.seen.choices
      return this.save('choices', choices, version, () =>
        ask(api.PUT('/api/jobs/{id}/choices', { params: { path }, body: { version, choices } })),
      )
    },
    /** Whether anything was done that a change of mind could undo. */
    worked(): boolean {
      return Object.keys(this.job?.state?.ticks ?? {}).length > 0
    },
    /** Asks whether a change is meant where it undoes work that stands; true where it does not, or it is. */
    async mind(choices: Choices): Promise<boolean> {
      if (!this.job) return true
      const params = { path: { id: this.job.id } }
      const body = { choices }
      const preview = await answer(this.job.id, 'preview', body, () =>
        ask(api.POST('/api/jobs/{id}/preview', { params, body })),
      ).catch(() => null) // what cannot be foreseen is not held up: the plan says it afterwards
      if (!preview?.again.length) return true
      return new Promise((say) => {
        this.falls = {
          again: preview.again,
          say: (go) => {
            this.falls = null
            say(go)
          },
        }
      })
    },
    async saveIntake(intake: Intake, from?: number): Promise<boolean> {
      const path = { id: this.job!.id }
      const version = from ?? this.seen.intake
      return this.save('intake', intake, version, () =>
        ask(api.PUT('/api/jobs/{id}/intake', { params: { path }, body: { version, intake } })),
      )
    },
    async save(part: Part, mine: Intake | Choices, from: number, put: () => Promise<JobView>): Promise<boolean> {
      this.problem = null
      this.unreached = false
      const id = this.stored!.id
      try {
        const view = await put()
        if (part === 'intake') draftStored(part, id, mine, view.intake_version)
        await this.take(view)
        return true
      } catch (e) {
        if (!(e instanceof Refused)) throw e
        if (e.problem.code === 'problem.stale' && e.problem.current) {
          this.conflict = clashOf(part, drafts.get<typeof mine>(part, id)?.value ?? mine, e.problem)
        } else if (part === 'choices' && later(e)) {
          this.unreached = true // nothing was judged: a server that is just starting has not refused it
        } else if (later(e)) {
          // It counts here already, unless the core would not take it; the outbox sends it before anything else.
          drafts.put(part, id, { base: from, value: mine, said: true })
          await this.show()
          const doubt = this.doubted.find((d) => d.id === part)
          if (!doubt) return true
          drafts.put(part, id, { base: from, value: mine, said: false })
          this.problem = doubt.problem
        } else {
          this.problem = e.problem
        }
        return false
      }
    },
    /** An edit made while the server was away met someone else's. */
    clash(problem: Problem) {
      const edit = this.edits()[0]
      if (!edit || !problem.current || this.conflict) return
      this.conflict = clashOf(edit.part, edit.draft.value, problem)
      drafts.drop(edit.part, this.stored!.id)
    },
    /** Ends a conflict: the fields that clash as the other has them, or as they were set here; all else of both stays. */
    async settle(keepMine: boolean) {
      const c = this.conflict
      if (!c) return
      this.conflict = null
      await this.take(c.theirs)
      const both = keepMine ? c.withMine : c.withTheirs
      if (JSON.stringify(both) === JSON.stringify(c.theirs[c.part])) return
      if (c.part === 'intake') await this.saveIntake(both as Intake, c.theirs.intake_version)
      else await this.saveChoices(both as Choices, c.theirs.choices_version)
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
        // What was done before it must be stored before it: the server judges by its own log.
        if (!(await useOutbox().drained(this.stored!.id))) throw new Refused(0, { code: 'problem.network' })
        await this.take(await call())
      } catch (e) {
        if (!(e instanceof Refused)) throw e
        this.problem = e.problem
      }
    },
  },
})
