import { mount } from '@vue/test-utils'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import { i18n } from '@/lib/words'
import { useUnits } from '@/lib/units'
import NumField from './NumField.vue'

function field(props: Record<string, unknown>) {
  return mount(NumField, {
    props: { modelValue: null, name: 'bore_mm', label: 'Bore', ...props } as never,
    global: { plugins: [i18n] },
  })
}
const typed = async (w: ReturnType<typeof field>, text: string) => {
  await w.find('input').setValue(text)
  return w.emitted('update:modelValue')?.at(-1)?.[0] as number | null | undefined
}

describe('a figure to type', () => {
  beforeEach(() => {
    setActivePinia(createPinia())
    useUnits([
      { id: 'mm', quantity: 'length', system: 'metric', factor: 1, offset: 0, decimals: 1 },
      { id: 'in', quantity: 'length', system: 'us', factor: 25.4, offset: 0, decimals: 3 },
    ])
  })
  it('takes millimetres as they are, and a fraction as inches', async () => {
    expect(await typed(field({}), '23,8')).toBeCloseTo(23.8)
    expect(await typed(field({}), '15/16')).toBeCloseTo(23.8125)
    expect(await typed(field({}), '1 1/16')).toBeCloseTo(26.9875)
  })
  it('changes its unit without changing the figure', async () => {
    const w = field({ modelValue: 25.4 })
    expect((w.find('input').element as HTMLInputElement).value).toBe('25.4')
    await w.find('button.unit').trigger('click')
    expect((w.find('input').element as HTMLInputElement).value).toBe('1.000')
    expect(await typed(w, '0.9375')).toBeCloseTo(23.8125)
  })
  it('says what is not a figure and hands nothing on', async () => {
    const w = field({})
    expect(await typed(w, 'about 24')).toBeUndefined()
    expect(w.text()).toContain('Not a figure')
  })
  it('asks about a figure outside the plausible range, but takes it', async () => {
    const w = field({ min: 15, max: 45 })
    expect(await typed(w, '60')).toBeCloseTo(60)
    expect(w.text()).toContain('is that so?')
    await typed(w, '30')
    expect(w.text()).not.toContain('is that so?')
  })
  it('shows the fault the core found, not its own', () => {
    const w = field({ modelValue: 400, min: 15, max: 45, fault: 'from the core' })
    expect(w.text()).toContain('from the core')
    expect(w.text()).not.toContain('is that so?')
  })
  it('shows as many digits as the figure has', () => {
    expect((field({ modelValue: 26.9875 }).find('input').element as HTMLInputElement).value).toBe('26.9875')
    expect((field({ modelValue: 0 }).find('input').element as HTMLInputElement).value).toBe('0.0')
  })
})
