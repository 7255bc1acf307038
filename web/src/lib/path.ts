import { has, t } from '@/lib/words'

/** A place in an intake or in choices as words: a JSON Pointer or a JSON path of the core. `wheels` are the job's. */
export function placeName(path: string, wheels: { id: string }[] = []): string {
  const keys = path
    .replace(/^\$\.?/, '')
    .replace(/\[(\d+)\]/g, '.$1')
    .replace(/^\//, '')
    .split(/[./]/)
    .filter((k) => k && !['data', 'intake', 'choices', 'system'].includes(k))
  const wheel = keys[0] === 'wheels' ? wheels[Number(keys[1])]?.id : undefined
  const rest = keys.filter((k) => !/^\d+$/.test(k))
  const names = [
    'field.' + keys.join('.'),
    'field.' + rest.join('.'),
    'field.wheel.' + rest.slice(1).join('.'),
    'place.' + rest.join('.'),
    'place.' + rest[0],
    'ui.' + rest.at(-1),
  ]
  const name = names.find(has)
  const text = name ? t(name) : rest.join(' ').replaceAll('_', ' ')
  return wheel ? `${wheel}: ${text}` : text
}
