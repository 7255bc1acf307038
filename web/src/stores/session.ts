import { defineStore } from 'pinia'
import { api, ask, type Schemas } from '@/api/client'
import { useUnits } from '@/lib/units'
import type { Pref } from '@/lib/words'

/** Who is signed in, how they read figures, and the vocabulary they enter from. */
export const useSession = defineStore('session', {
  state: () => ({
    user: null as Schemas['ServerUserView'] | null,
    demo: [] as Schemas['ServerDemoAccount'][],
    vocabulary: null as Schemas['ServerVocabulary'] | null,
    asked: false,
  }),
  getters: {
    pref: (s): Pref => (s.user?.units as Pref) ?? 'metric',
    /** Whether this person may do something: asked of what the core's table of roles gave them. */
    may: (s) => (command: Schemas['ServerUserView']['rights'][number]) => !!s.user?.rights.includes(command),
    night: (s) => s.user?.theme === 'night',
  },
  actions: {
    async load() {
      const s = await ask(api.GET('/api/session'))
      this.user = s.user
      this.demo = s.demo
      if (s.user) await this.loadVocabulary()
      this.asked = true
    },
    async loadVocabulary() {
      if (this.vocabulary) return
      this.vocabulary = await ask(api.GET('/api/vocabulary'))
      useUnits(this.vocabulary.units)
    },
    async signIn(name: string, password: string, demo: boolean) {
      const body = demo ? { name, demo: true } : { name, password }
      const s = await ask(api.POST('/api/session', { body }))
      this.user = s.user
      await this.loadVocabulary()
    },
    async signOut() {
      await ask(api.DELETE('/api/session'))
      this.user = null
      await this.load()
    },
    async prefer(change: Partial<Schemas['ServerPreferences']>) {
      if (!this.user) return
      const body = { units: this.user.units, theme: this.user.theme, ...change }
      this.user = { ...this.user, ...body }
      this.user = await ask(api.PUT('/api/me', { body }))
    },
  },
})
