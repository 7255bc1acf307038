import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it } from 'vitest'
import { useJob } from '@/stores/job'
import { useOnward } from './onward'

beforeEach(() => setActivePinia(createPinia()))

it('a finished station leads to the one of the work with something left, else to Verify', () => {
  const left = (replace: number, bleed: number) =>
    useJob().$patch({
      job: {
        status: {
          stations: [
            { id: 'replace', state: 'open', left: replace },
            { id: 'bleed', state: 'open', left: bleed },
          ],
        },
      },
    } as object)
  const [fromBleed, fromReplace] = [useOnward('bleed'), useOnward('replace')]
  left(3, 0)
  expect(fromBleed.value).toBe('replace')
  expect(fromReplace.value).toBe('verify')
  left(0, 4)
  expect(fromReplace.value).toBe('bleed')
  left(0, 0)
  expect([fromBleed.value, fromReplace.value]).toEqual(['verify', 'verify'])
})
