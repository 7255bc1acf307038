import type { Schemas } from '@/api/client'
import { figure } from './units'
import { has, t, wheels } from './words'
import { useSession } from '@/stores/session'

/** What is done on a practice vehicle and what is seen of it, in words. */
type Act = Schemas['ProvingAct']

const valueWord = (v: string) => (has('value.' + v) ? t('value.' + v) : has('place.' + v) ? t('place.' + v) : v)
const places = (list: unknown[]) => list.map((x) => valueWord(String(x))).join(', ')

type Finding = Schemas['DiagnoseFinding']

/** What a finding is called: a sign of the diagnosis, or an item of the release check. */
export const findingName = (id: string) =>
  has('finding.' + id) ? t('finding.' + id) : has('gate.' + id) ? t('gate.' + id) : id

/** What was seen, in words and in this person's units. */
export function findingValue(f: Finding): string {
  const pref = useSession().pref
  const mm = (x: unknown) => figure('mm', Number(x), pref)
  const v = f.value as unknown
  if (typeof v === 'string') return valueWord(v)
  if (typeof v === 'number') return String(v)
  if (Array.isArray(v)) {
    if (v.length && typeof v[0] === 'object')
      return (v as Record<string, number>[])
        .map((r) =>
          r.mpa === undefined
            ? `${figure('n', r.pedal_force_n!, pref)}: ${mm(r.travel_mm)}`
            : `${wheels(String(r.at))}: ${figure('mpa', r.mpa, pref)}`,
        )
        .join('; ')
    return v.length ? places(v) : t('value.none')
  }
  if (v && typeof v === 'object') {
    const o = v as Record<string, number | string>
    if (o.seconds !== undefined) return t('seen.sank', { mm: mm(o.travel_mm), s: o.seconds })
    if (o.first_mm !== undefined)
      return t('seen.pumped', { first: mm(o.first_mm), second: mm(o.second_mm), fourth: mm(o.fourth_mm) })
    return Object.entries(o)
      .map(([at, x]) => `${wheels(at)}: ${valueWord(String(x))}`)
      .join('; ')
  }
  return ''
}

/** What an act is called. */
export function actName(a: Act): string {
  const id = a.id ?? ''
  switch (a.do) {
    case 'test':
      return t('test.' + id)
    case 'look':
    case 'read':
      return findingName(id)
    case 'step':
      return has('step.' + id) ? t('step.' + id) : id
    case 'unit':
      return t('doing.unit.' + id)
    case 'mend':
      return t('doing.mend', { what: (a.places ?? []).map(placeName).join(', ') || '–' })
    default:
      return t('doing.' + a.do, { at: a.at ? wheels(a.at) : '', n: a.n ?? '' })
  }
}

/** Where something is repaired, or which part something is of. */
export function placeName(part: string): string {
  const [what, at] = part.split(':')
  const name = has('part_of.' + what) ? t('part_of.' + what) : what!
  return at ? `${name} ${wheels(at)}` : name
}
