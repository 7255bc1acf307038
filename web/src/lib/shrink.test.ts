import { describe, expect, it } from 'vitest'
import { bare } from './shrink'

const segment = (marker: number, body: number[]) => [
  0xff,
  marker,
  (body.length + 2) >> 8,
  (body.length + 2) & 255,
  ...body,
]
const jfif = segment(0xe0, [0x4a, 0x46, 0x49, 0x46, 0, 1, 1, 0, 0, 1, 0, 1, 0, 0])
const table = segment(0xdb, [0, 1, 2, 3])
const scan = [...segment(0xda, [1, 1, 0, 0, 63, 0]), 9, 0xff, 0, 8, 0xff, 0xd3, 7]

describe('a drawn picture', () => {
  it('is stored with its tables and scans alone, and ends where it ends', () => {
    const exif = segment(0xe1, [0x45, 0x78, 0x69, 0x66])
    const drawn = [0xff, 0xd8, ...jfif, ...exif, ...segment(0xfe, [1]), ...table, ...scan, ...exif, 0xff, 0xd9, 5, 5]
    expect([...bare(new Uint8Array(drawn))]).toEqual([0xff, 0xd8, ...jfif, ...table, ...scan, 0xff, 0xd9])
  })

  it('that is bare already stays as it is', () => {
    const drawn = [0xff, 0xd8, ...jfif, ...table, ...scan, 0xff, 0xd9]
    expect([...bare(new Uint8Array(drawn))]).toEqual(drawn)
  })
})
