import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it } from 'vitest'
import { i18n } from '@/lib/words'
import StepsTogether from './StepsTogether.vue'

beforeEach(() => setActivePinia(createPinia()))
const step = (id: string, needs: string[] = []) =>
  ({ id, phase: 'strip', gate: false, parts: [], fasteners: [], tools: [], cautions: [], needs }) as never
const steps = [
  step('strip.sensor_plug'),
  step('strip.lines_off', ['strip.sensor_plug']),
  step('strip.cylinder_off'),
  step('close.wash'),
]
const mounted = () => mount(StepsTogether, { props: { steps }, global: { plugins: [i18n] } })

it('tells all of them by one tap, in their order', async () => {
  const w = mounted()
  await w.find('[data-testid="tell-together"]').trigger('click')
  expect(w.emitted('done')).toEqual([[['strip.sensor_plug', 'strip.lines_off', 'strip.cylinder_off', 'close.wash']]])
})

it('leaves out what is not done, and what rests on it', async () => {
  const w = mounted()
  await w.find('[data-testid="with-strip.sensor_plug"]').trigger('click')
  expect(w.find('[data-testid="with-strip.lines_off"]').attributes('aria-checked')).toBe('false')
  await w.find('[data-testid="tell-together"]').trigger('click')
  expect(w.emitted('done')).toEqual([[['strip.cylinder_off', 'close.wash']]])
})

it('is not for one step alone: that is told by its own button', async () => {
  const w = mounted()
  for (const id of ['strip.sensor_plug', 'strip.cylinder_off'])
    await w.find(`[data-testid="with-${id}"]`).trigger('click')
  expect(w.find('[data-testid="tell-together"]').attributes('disabled')).toBeDefined()
})
