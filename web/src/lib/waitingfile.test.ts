import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { local } from './local'
import { bringWaiting, isWaiting, waitingFile } from './waitingfile'
import { useOutbox } from '@/stores/outbox'
import { useSession } from '@/stores/session'

function as(id: string) {
  setActivePinia(createPinia())
  useSession().user = { id, name: id, display: id } as never
}

describe('a file of what waits', () => {
  beforeEach(async () => {
    await local.outbox.clear()
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('down')))
    as('mara')
  })

  it('carries what waits to another device, where it waits under its own ids, once', async () => {
    const box = useOutbox()
    const ids = ['RR', 'LR'].map((wheel) => box.send('j', 'bleed_stroke', { wheel }))
    await vi.waitFor(async () => expect(await local.outbox.count()).toBe(2))
    const file = JSON.parse(JSON.stringify(waitingFile())) as unknown
    expect(isWaiting(file)).toBe(true)

    await local.outbox.clear()
    as('mara')
    if (!isWaiting(file)) throw new Error('not a file of what waits')
    expect(await bringWaiting(file)).toBe(2)
    expect(await bringWaiting(file)).toBe(0)
    expect(useOutbox().mine.map((w) => w.event.id)).toEqual(ids)
    expect(await local.outbox.count()).toBe(2)
  })

  it("is sent under nobody else's name, and is not taken in halves", async () => {
    useOutbox().send('j', 'bleed_stroke', { wheel: 'RR' })
    const file = waitingFile()
    as('piet')
    await expect(bringWaiting(file)).rejects.toThrow('ui.waiting_other')
    as('mara')
    const broken = { ...file, events: [...file.events, { job: 'j', event: {} as never }] }
    await expect(bringWaiting(broken)).rejects.toThrow('ui.waiting_broken')
    expect(useOutbox().mine).toHaveLength(0)
  })
})
