/** A picture made small enough to keep, drawn anew: what the camera wrote into it (where, when, by what) is gone. */
export async function shrink(file: Blob, mostBytes: number): Promise<string> {
  const image = await createImageBitmap(file)
  let side = 1280
  for (let quality = 0.8; side >= 320; quality -= 0.15) {
    if (quality < 0.4) {
      quality = 0.7
      side /= 1.5
    }
    const scale = Math.min(1, side / Math.max(image.width, image.height))
    const canvas = document.createElement('canvas')
    canvas.width = Math.max(1, Math.round(image.width * scale))
    canvas.height = Math.max(1, Math.round(image.height * scale))
    canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height)
    const drawn = canvas.toDataURL('image/jpeg', quality).split(',')[1] ?? ''
    const data = btoa(text(bare(Uint8Array.from(atob(drawn), (c) => c.charCodeAt(0)))))
    if (data && (data.length * 3) / 4 <= mostBytes) return data
  }
  throw new Error('too big')
}

/**
 * A JPEG with nothing but its tables, frames and scans, and a plain JFIF head: some browsers write more into what they draw, and
 * what is stored of a shop carries only the picture.
 */
export function bare(jpeg: Uint8Array): Uint8Array {
  const out: number[] = [0xff, 0xd8]
  let at = 2
  while (at + 4 <= jpeg.length && jpeg[at] === 0xff) {
    const marker = jpeg[at + 1]!
    if (marker === 0xd9) break
    const long = jpeg[at + 2]! * 256 + jpeg[at + 3]!
    const jfif = marker === 0xe0 && long === 16
    const told = (marker >= 0xe0 && marker <= 0xef && !jfif) || marker === 0xfe
    let end = at + 2 + long
    if (marker === 0xda)
      while (end + 1 < jpeg.length && !(jpeg[end] === 0xff && jpeg[end + 1] !== 0 && (jpeg[end + 1]! & 0xf8) !== 0xd0))
        end++
    if (!told) for (let i = at; i < end; i++) out.push(jpeg[i]!)
    at = end
  }
  out.push(0xff, 0xd9)
  return new Uint8Array(out)
}

/** Bytes as the text that btoa takes, in pieces: a call takes only so many arguments. */
function text(bytes: Uint8Array): string {
  let out = ''
  for (let i = 0; i < bytes.length; i += 8192) out += String.fromCharCode(...bytes.subarray(i, i + 8192))
  return out
}
