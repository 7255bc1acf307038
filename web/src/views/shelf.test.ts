import { flushPromises, mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { i18n } from '@/lib/words'
import { useSession } from '@/stores/session'
import Shelf from './Shelf.vue'

const global = { plugins: [i18n], stubs: { TopBar: true, RouterLink: true } }
const unit = (id: string, bore: number) => ({
  id,
  maker: 'M',
  number: id,
  bore_mm: bore,
  studs: 2,
  ports: [],
  contents: [],
})
let asked: { path: string; body: unknown }[] = []
let answers: Record<string, unknown> = {}

beforeEach(() => {
  setActivePinia(createPinia())
  useSession().user = { rights: ['set_shelf', 'import_catalogue'] } as never
  asked = []
  answers = { '/api/catalogue/search': { units: [unit('a', 25.4), unit('b', 25.4)], all: 9, shelved: ['b'] } }
  vi.stubGlobal('fetch', async (r: Request) => {
    const path = new URL(r.url).pathname
    asked.push({ path, body: r.method === 'POST' ? await r.json() : null })
    return new Response(JSON.stringify(answers[path] ?? {}), { headers: { 'content-type': 'application/json' } })
  })
})
afterEach(() => vi.unstubAllGlobals())

it('searches by what was measured alone, and shows what stands on the shelf already', async () => {
  useSession().vocabulary = { unit: { figures: {}, words: { kind: ['master_cylinder', 'vacuum_booster'] } } } as never
  const w = mount(Shelf, { global })
  await flushPromises()
  expect(asked[0]!.body).toEqual({ kind: 'master_cylinder', within_mm: 0.1 })
  expect(w.find('[data-testid="shelf-b"]').attributes('aria-pressed')).toBe('true')
  await w.find('[data-testid="q-stud"] input').setValue('85')
  await w.find('[data-testid="within-0.5"]').trigger('click')
  await w.find('form').trigger('submit')
  await flushPromises()
  expect(asked[1]!.body).toEqual({ kind: 'master_cylinder', stud_spacing_mm: 85, within_mm: 0.5 })
  // A booster is not searched by a cylinder's measures left over in the form.
  await w.find('[data-testid="kind-vacuum_booster"]').trigger('click')
  await w.find('form').trigger('submit')
  await flushPromises()
  expect(asked[2]!.body).toEqual({ kind: 'vacuum_booster', within_mm: 0.5 })
})

it('takes a unit onto the shelf and off it', async () => {
  const w = mount(Shelf, { global })
  await flushPromises()
  await w.find('[data-testid="shelf-a"]').trigger('click')
  await w.find('[data-testid="shelf-b"]').trigger('click')
  await flushPromises()
  expect(asked.slice(1).map((x) => x.body)).toEqual([
    { id: 'a', on: true },
    { id: 'b', on: false },
  ])
})

it('follows an import to its end, and searches anew', async () => {
  vi.useFakeTimers()
  const state = { id: 'i', name: 'u.csv', state: 'running', done: 0, total: 0, problems: [] }
  answers['/api/catalogue/import'] = state
  answers['/api/catalogue/imports/i'] = { ...state, done: 500, total: 1000 }
  const w = mount(Shelf, { global })
  await vi.advanceTimersByTimeAsync(10)
  const input = w.find('[data-testid="catalogue-file"]')
  Object.defineProperty(input.element, 'files', { value: [{ name: 'u.csv', text: async () => 'id\nx\n' }] })
  await input.trigger('change')
  await vi.advanceTimersByTimeAsync(500)
  expect(w.find('[role=progressbar]').attributes('aria-valuenow')).toBe('50')
  answers['/api/catalogue/imports/i'] = { ...state, state: 'done', done: 1000, total: 1000 }
  await vi.advanceTimersByTimeAsync(900)
  vi.useRealTimers()
  await flushPromises()
  expect(w.find('[data-testid="import-state"]').text()).toContain('1000 units from u.csv are in')
  expect(asked.filter((x) => x.path === '/api/catalogue/search')).toHaveLength(2)
})
