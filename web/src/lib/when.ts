import { writtenIn } from './units'

const valid = (d: Date) => !isNaN(d.getTime())

/** A day as this person's language and country write it. */
export function dayText(at: string | null | undefined): string {
  if (!at) return '–'
  const d = new Date(at.length === 10 ? at + 'T12:00:00' : at)
  return valid(d) ? d.toLocaleDateString(writtenIn()) : '–'
}

/** A moment, the same way. */
export function momentText(at: string | null | undefined): string {
  const d = new Date(at ?? '')
  return valid(d) ? d.toLocaleString(writtenIn(), { dateStyle: 'short', timeStyle: 'short' }) : '–'
}

/** When something last happened: the time where it was today, else the day. */
export function latelyText(at: string | null | undefined): string {
  const d = new Date(at ?? '')
  return d.toDateString() === new Date().toDateString() ? timeText(at) : dayText(at)
}

/** A time of the day, the same way. */
export function timeText(at: string | null | undefined): string {
  const d = new Date(at ?? '')
  return valid(d) ? d.toLocaleTimeString(writtenIn(), { hour: '2-digit', minute: '2-digit' }) : '–'
}
