/**
 * Small things this browser remembers by itself. Where its storage is switched off or throws, a page goes on without: nothing
 * here is more than a convenience, but for a draft, which then lives as long as the page.
 */
const here = new Map<string, string>()

export const own = {
  get(key: string): string | null {
    const kept = here.get(key) // what could not be stored is newer than what once was
    if (kept !== undefined) return kept
    try {
      return localStorage.getItem(key)
    } catch {
      return null
    }
  },
  /** Whether it outlives the page. */
  set(key: string, value: string): boolean {
    try {
      localStorage.setItem(key, value)
      here.delete(key)
      return true
    } catch {
      here.set(key, value)
      return false
    }
  },
  remove(key: string) {
    here.delete(key)
    try {
      localStorage.removeItem(key)
    } catch {
      // there is nothing to remove
    }
  },
}
