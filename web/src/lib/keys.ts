import { onBeforeUnmount, onMounted } from 'vue'

/** True where the keyboard belongs to something that is being typed into or pressed. */
function busy(e: KeyboardEvent): boolean {
  const el = e.target as HTMLElement | null
  if (!el || e.ctrlKey || e.metaKey || e.altKey) return true
  if (el.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(el.tagName)) return true
  // Space on a focused button is that button's own press.
  return e.key === ' ' && el.tagName === 'BUTTON' && !el.hasAttribute('data-stroke')
}

/** Shortcuts of a view, alive while it is on the screen. Keys are as KeyboardEvent.key, lower case. */
export function useKeys(keys: Record<string, () => void>) {
  const onKey = (e: KeyboardEvent) => {
    const act = keys[e.key.toLowerCase()]
    if (!act || busy(e)) return
    e.preventDefault()
    // A key held down counts once, but for the arrows, which are made to be held.
    if (!e.repeat || e.key.startsWith('Arrow')) act()
  }
  onMounted(() => window.addEventListener('keydown', onKey))
  onBeforeUnmount(() => window.removeEventListener('keydown', onKey))
}
