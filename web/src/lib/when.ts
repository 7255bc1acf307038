/** A day as this person's locale writes it. */
export function dayText(at: string | null | undefined): string {
  if (!at) return '–'
  const d = new Date(at.length === 10 ? at + 'T12:00:00' : at)
  return isNaN(d.getTime()) ? '–' : d.toLocaleDateString()
}

/** A moment as this person's locale writes it. */
export function momentText(at: string | null | undefined): string {
  if (!at) return '–'
  const d = new Date(at)
  return isNaN(d.getTime()) ? '–' : d.toLocaleString([], { dateStyle: 'short', timeStyle: 'short' })
}
