import { core, NoCore } from '@/core/core'
import type { Schemas } from '@/api/client'
import { shrink } from '@/lib/shrink'

type Bound = Schemas['UnitsBound']

/** A picture ready to be measured on: as it will be kept, its size, and what its camera wrote of its lens. */
export interface Picture {
  jpeg: string
  src: string
  wide: number
  high: number
  focal35?: number
}

/** Makes a picture small and plain, as it is kept, and hands its brightness to the core: what is tapped is looked for in just that. */
export async function develop(file: Blob, mostBytes: number, focal?: Bound): Promise<Picture> {
  const focal35 = await focalOf(file, focal)
  const jpeg = await shrink(file, mostBytes)
  const src = 'data:image/jpeg;base64,' + jpeg
  const bytes = Uint8Array.from(atob(jpeg), (c) => c.charCodeAt(0))
  const image = await createImageBitmap(new Blob([bytes], { type: 'image/jpeg' }))
  const { width: wide, height: high } = image
  await core.picture({ wide_px: wide, high_px: high, luma: base64(luma(image)) }).catch((e: unknown) => {
    if (!(e instanceof NoCore)) throw e // else it is measured by the taps alone
  })
  return { jpeg, src, wide, high, focal35 }
}

/** The focal length as of a camera for film of 35 mm, where the camera wrote it. The reader is loaded when a picture is there. */
async function focalOf(file: Blob, bound?: Bound): Promise<number | undefined> {
  try {
    const { load } = await import('exifreader')
    const tag = (await load(await file.arrayBuffer())).FocalLengthIn35mmFilm
    const mm = Number(tag?.value)
    return bound && mm >= bound.min && mm <= bound.max ? mm : undefined // 0 is none
  } catch {
    return undefined // nothing written, or no reader: the core assumes a phone's
  }
}

function luma(image: ImageBitmap): Uint8Array {
  const canvas = document.createElement('canvas')
  canvas.width = image.width
  canvas.height = image.height
  const pen = canvas.getContext('2d', { willReadFrequently: true })!
  pen.drawImage(image, 0, 0)
  const rgba = pen.getImageData(0, 0, image.width, image.height).data
  const out = new Uint8Array(image.width * image.height)
  // Brightness as ITU-R BT.601 weighs the three.
  for (let i = 0; i < out.length; i++)
    out[i] = (299 * rgba[4 * i]! + 587 * rgba[4 * i + 1]! + 114 * rgba[4 * i + 2]!) / 1000
  return out
}

function base64(bytes: Uint8Array): string {
  let text = ''
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192))
  return btoa(text)
}
