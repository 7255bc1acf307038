import { useSession } from '@/stores/session'

/** What a unit is entered from, as the core has it: the bounds of its figures, its words, the common threads. */
export function useUnitWords() {
  const session = useSession()
  const unit = () => session.vocabulary?.unit
  return {
    /** The bounds of a figure, for a field. */
    figure: (field: string) => unit()?.figures[field] ?? {},
    words: (field: string) => unit()?.words[field] ?? [],
    threads: () => unit()?.threads ?? [],
    /** What a residual valve holds that nobody measured. */
    residual: () => unit()?.residual_usual_mpa ?? 0,
  }
}
