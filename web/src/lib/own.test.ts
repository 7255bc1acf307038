import { afterEach, expect, it, vi } from 'vitest'
import { own } from './own'

afterEach(() => vi.unstubAllGlobals())

it('goes on without a storage that throws, as long as the page lives', () => {
  own.set('a', '1')
  expect(localStorage.getItem('a')).toBe('1')
  const no = () => {
    throw new DOMException('no', 'SecurityError')
  }
  vi.stubGlobal('localStorage', { getItem: no, setItem: no, removeItem: no })
  expect(own.get('b')).toBeNull()
  own.set('b', '2')
  expect(own.get('b')).toBe('2')
  own.remove('b')
  expect(own.get('b')).toBeNull()
})

it('a storage that is full does not put back what stood there before', () => {
  own.set('c', 'old')
  vi.stubGlobal('localStorage', {
    getItem: () => 'old',
    setItem: () => {
      throw new DOMException('full', 'QuotaExceededError')
    },
    removeItem: () => {},
  })
  expect(own.set('c', 'new')).toBe(false)
  expect(own.get('c')).toBe('new')
})
