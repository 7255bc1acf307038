import { mount, RouterLinkStub } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it } from 'vitest'
import type { JobView, Schemas } from '@/api/client'
import { i18n } from '@/lib/words'
import { useJob } from '@/stores/job'
import GateHead from './GateHead.vue'

beforeEach(() => setActivePinia(createPinia()))

const now = [{ id: 'wheel.parking_brake', probability: 0.92 }]
const shown = (wins: boolean) => {
  useJob().job = { id: 'j', state: { findings: {} } } as unknown as JobView
  const view = {
    gate: { items: [], passable: false, missing: 0, failed: 1 },
    to_do: [],
    back: [],
    unexplained: [],
    released: false,
    loops: 0,
    now,
    beyond: { probability: wins ? 0.6 : 0.1, wins, left: wins ? ['brakes.drag'] : [] },
  } as unknown as Schemas['JobVerifyView']
  const stubs = { RouterLink: RouterLinkStub, ParkIt: true, Reopen: true }
  return mount(GateHead, { props: { view }, global: { plugins: [i18n], stubs } })
}

it('names the likeliest fault while the diagnosis knows one', () => {
  const w = shown(false)
  expect(w.get('[data-testid=says-now]').text()).toContain('92 %')
  expect(w.find('[data-testid=beyond]').exists()).toBe(false)
})

it('names no fault, but the signs that are left, where it is likelier something it does not know', () => {
  const w = shown(true)
  expect(w.get('[data-testid=beyond]').text()).toContain('Brakes drag')
  expect(w.find('[data-testid=says-now]').exists()).toBe(false)
  expect(w.text()).not.toContain('92 %')
})
