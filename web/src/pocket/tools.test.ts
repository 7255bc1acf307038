import { describe, expect, it } from 'vitest'
import { Late, NoCore } from '@/core/core'
import { either } from './tools'

const fails = (e: unknown) => () => Promise.reject(e)
const says = (v: string) => () => Promise.resolve(v)

describe('a tool in the pocket', () => {
  it('is worked out here, and by the server only where the core does not run', async () => {
    expect(await either(says('here'), says('there'))).toBe('here')
    expect(await either(fails(new NoCore()), says('there'))).toBe('there')
  })
  it('waits for a slow core where no server can be reached', async () => {
    const late = new Late(Promise.resolve('late'))
    expect(await either<unknown>(fails(late), fails(new Error('away')))).toBe('late')
    await expect(either(fails(new NoCore()), fails(new Error('away')))).rejects.toThrow('away')
  })
  it('says what was refused, and asks nobody else', async () => {
    await expect(either(fails(new Error('slanted')), says('there'))).rejects.toThrow('slanted')
  })
})
