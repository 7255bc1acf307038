/**
 * Small things this browser remembers by itself. Where its storage is switched off or throws, a page goes on without: nothing
 * here is more than a convenience, but for a draft, which then lives as long as the page.
 */
const here = new Map<string, string>()

export const own = {
  get(key: string): string | null {
    try {
      return localStorage.getItem(key)
    } catch {
      return here.get(key) ?? null
    }
  },
  set(key: string, value: string) {
    try {
      localStorage.setItem(key, value)
    } catch {
      here.set(key, value)
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
