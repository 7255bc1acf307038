import { reactive } from 'vue'

/** What the Bleed station wants shown on the schematic beside it. */
const shown = reactive({
  current: '' as string | undefined,
  done: [] as string[],
  level: undefined as number | undefined,
})

export function useBleedShown() {
  return shown
}
