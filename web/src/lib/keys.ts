import { own } from './own'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

/**
 * Whether single keys are shortcuts on this device (WCAG 2.1.4: they can be switched off). The space bar and the arrows stay,
 * and so does the key that shows the list, where it is switched on again.
 */
const kept = 'geminate.keys'
export const singleKeys = ref(own.get(kept) !== 'off')
watch(singleKeys, (on) => own.set(kept, on ? 'on' : 'off'))
const always = (key: string) => key === ' ' || key === '?' || key.startsWith('Arrow')

/** Whether the list of keys is shown. */
export const keysShown = ref(false)

/** True where the keyboard belongs to something that is being typed into or pressed. */
function busy(e: KeyboardEvent): boolean {
  const el = e.target as HTMLElement | null
  if (!el || e.ctrlKey || e.metaKey || e.altKey) return true
  if (el.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(el.tagName)) return true
  // Space on a focused button is that button's own press.
  return e.key === ' ' && el.tagName === 'BUTTON' && !el.hasAttribute('data-stroke')
}

/** Shortcuts of a view, alive while it is on the screen. Keys are as KeyboardEvent.key, lower case. */
export function useKeys(keys: Record<string, (e: KeyboardEvent) => void>) {
  const onKey = (e: KeyboardEvent) => {
    const act = keys[e.key.toLowerCase()]
    if (!act || busy(e) || (!singleKeys.value && !always(e.key))) return
    e.preventDefault()
    // A key held down counts once, but for the arrows, which are made to be held.
    if (!e.repeat || e.key.startsWith('Arrow')) act(e)
  }
  onMounted(() => window.addEventListener('keydown', onKey))
  onBeforeUnmount(() => window.removeEventListener('keydown', onKey))
}
