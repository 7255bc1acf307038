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
    const data = canvas.toDataURL('image/jpeg', quality).split(',')[1] ?? ''
    if (data && (data.length * 3) / 4 <= mostBytes) return data
  }
  throw new Error('too big')
}
