import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { expect, it } from 'vitest'
import type { JobView } from '@/api/client'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'
import { findingsOf } from './findings'

it('says what was found, what is only thought, and what was tapped a moment ago', () => {
  setActivePinia(createPinia())
  useSession().user = { id: 'mara' } as never
  const found = { 'pedal.sinks': { value: 'slow' }, 'level.falls': { value: 'no', sure: false } }
  const job = { id: 'j', state: { findings: { diagnose: found } } } as unknown as JobView
  const box = useOutbox()
  box.waiting = [
    { phase: 'diagnose', finding: 'pedal.hard', value: 'always' },
    { phase: 'diagnose', finding: 'level.falls' },
    { phase: 'verify', finding: 'pedal.hard', value: 'no' },
  ].map((data, i) => ({ account: 'mara', job: 'j', event: { id: String(i), kind: 'finding', at: '', data } }))
  expect(findingsOf(job, 'diagnose')).toEqual({
    'pedal.sinks': { value: 'slow', sure: true },
    'pedal.hard': { value: 'always', sure: true },
  })
  useSession().user = { id: 'piet' } as never
  expect(findingsOf(job, 'diagnose')['pedal.hard']).toBeUndefined()
})
