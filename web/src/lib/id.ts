/**
 * A new random id (version 4 of RFC 9562). `crypto.randomUUID` is only there in a secure context; over plain HTTP on
 * a shop's network the id is made from the same random source by hand.
 */
export function newId(): string {
  if (typeof crypto.randomUUID === 'function') return crypto.randomUUID()
  const b = crypto.getRandomValues(new Uint8Array(16))
  b[6] = (b[6] & 0x0f) | 0x40
  b[8] = (b[8] & 0x3f) | 0x80
  const hex = Array.from(b, (x) => x.toString(16).padStart(2, '0')).join('')
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}

let device = ''

/** Which device of a person this is, the same for all its tabs: what is told on one keeps its own order. */
export function deviceId(): string {
  if (device) return device
  try {
    device = localStorage.getItem('geminate.device') || newId()
    localStorage.setItem('geminate.device', device)
  } catch {
    device = newId() // nothing is kept here: for as long as the page lives
  }
  return device
}
