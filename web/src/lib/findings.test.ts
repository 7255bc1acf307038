import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it } from 'vitest'
import type { JobView } from '@/api/client'
import { useOutbox } from '@/stores/outbox'
import { findingsOf } from './findings'

const job = {
  id: 'j',
  state: { findings: { diagnose: { 'pedal.sinks': { value: 'slow' }, 'level.falls': { value: 'no', sure: false } } } },
} as unknown as JobView

function waiting(data: object, jobId = 'j', kind = 'finding') {
  useOutbox().waiting.push({ job: jobId, event: { id: newId(), kind, at: '', data: data as never } })
}
import { newId } from './id'

describe('findings on the screen', () => {
  beforeEach(() => {
    localStorage.clear()
    setActivePinia(createPinia())
  })
  it('are what the server has', () => {
    expect(findingsOf(job, 'diagnose')).toEqual({
      'pedal.sinks': { value: 'slow', sure: true },
      'level.falls': { value: 'no', sure: false },
    })
    expect(findingsOf(job, 'verify')).toEqual({})
  })
  it('have what is on its way laid over, in order', () => {
    waiting({ phase: 'diagnose', finding: 'pedal.sinks', value: 'fast' })
    waiting({ phase: 'diagnose', finding: 'level.falls' })
    waiting({ phase: 'diagnose', finding: 'pedal.hard', value: 'always', sure: false })
    waiting({ phase: 'diagnose', finding: 'pedal.low', value: 'yes' }, 'another job')
    waiting({ wheel: 'RR' }, 'j', 'bleed_stroke')
    expect(findingsOf(job, 'diagnose')).toEqual({
      'pedal.sinks': { value: 'fast', sure: true },
      'pedal.hard': { value: 'always', sure: false },
    })
  })
})
