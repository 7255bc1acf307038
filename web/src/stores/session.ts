import { defineStore } from 'pinia'
import { api, ask, Refused, type Schemas } from '@/api/client'
import { keep, kept } from '@/lib/local'
import { useUnits } from '@/lib/units'
import { language, languages, speak, type Language, type Pref } from '@/lib/words'

/** Who is signed in, how they read figures, and the vocabulary they enter from. */
export const useSession = defineStore('session', {
  state: () => ({
    user: null as Schemas['ServerUserView'] | null,
    demo: [] as Schemas['ServerDemoAccount'][],
    vocabulary: null as Schemas['ServerVocabulary'] | null,
    asked: false,
    /** The shop has no account yet. */
    first: false,
    /** This installation has several shops, and the code of the one signed in to. */
    shops: false,
    shop: '',
    /** A practice vehicle is open: whoever learns decides there. */
    practising: false,
  }),
  getters: {
    pref: (s): Pref => (s.user?.units as Pref) ?? 'metric',
    /** Whether this person may do something: asked of what the core's table of roles gave them. */
    may: (s) => (command: Schemas['ServerUserView']['rights'][number]) =>
      !!s.user?.rights.includes(command) || (s.practising && !!s.user?.practice_rights?.includes(command)),
    night: (s) => s.user?.theme === 'night',
    isDemo: (s) => s.demo.some((d) => d.name === s.user?.name),
  },
  actions: {
    async load() {
      try {
        const s = await ask(api.GET('/api/session'))
        this.user = s.user
        this.demo = s.demo
        this.first = s.first
        this.in(s)
        if (s.user) await this.loadVocabulary()
        await this.readIn()
        await this.remember()
      } catch (e) {
        if (!(e instanceof Refused) || !(e.offline || e.status >= 500) || !(await this.recall())) throw e
      }
      this.asked = true
    },
    /** A person's own language goes before the browser's. */
    async readIn() {
      const own = this.user?.language
      if (own && own in languages && own !== language()) await speak(own as Language).catch(() => {})
    },
    /** Keeps who was signed in here, for opening without the server. */
    async remember() {
      await keep('session', { user: this.user, demo: this.demo, vocabulary: this.vocabulary })
    },
    async recall(): Promise<boolean> {
      const s = await kept<{ user: Schemas['ServerUserView']; vocabulary: Schemas['ServerVocabulary'] }>('session')
      if (!s?.user || !s.vocabulary) return false
      Object.assign(this, s)
      useUnits(s.vocabulary.units)
      return true
    },
    /** Which shop it is: another one's patterns and prices are not this one's. */
    in(s: Schemas['ServerSessionView']) {
      if (this.shop !== (s.shop ?? '')) this.vocabulary = null
      this.shops = !!s.shops
      this.shop = s.shop ?? ''
    },
    async loadVocabulary() {
      if (this.vocabulary || !this.may('look_up')) return
      this.vocabulary = await ask(api.GET('/api/vocabulary'))
      useUnits(this.vocabulary.units)
    },
    /** The person who is shown signs in again: the session has ended, nothing else has. */
    async signInAgain(password: string) {
      const name = this.user?.name ?? ''
      const body = this.isDemo ? { name, demo: true } : { name, password, ...(this.shop && { shop: this.shop }) }
      this.user = (await ask(api.POST('/api/session', { body }))).user
    },
    async signIn(name: string, password: string, demo: boolean, shop = '') {
      const body = demo ? { name, demo: true } : { name, password, ...(shop && { shop }) }
      const s = await ask(api.POST('/api/session', { body }))
      this.in(s)
      this.user = s.user
      await this.loadVocabulary()
      await this.readIn()
      await this.remember()
    },
    async signOut() {
      await ask(api.DELETE('/api/session'))
      this.user = null
      await this.remember()
      await this.load()
    },
    async prefer(change: Partial<Schemas['ServerPreferences']>) {
      if (!this.user) return
      const { units, theme, language } = this.user
      const body = { units, theme, language, ...change }
      this.user = { ...this.user, ...body }
      this.user = await ask(api.PUT('/api/me', { body }))
    },
  },
})
