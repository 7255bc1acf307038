import type { Schemas, Unit } from '@/api/client'
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

type PhotoField = Schemas['MatchPhotoWanted']['field']

/** A unit's figures that were measured on a photo: one that is taken has its doubt, one that is typed over has none any more. */
export function usePhotoFigure(unit: () => Unit) {
  return {
    taken: (field: PhotoField, half: number) => ({ by_photo: { ...unit().by_photo, [field]: half } }),
    typed(field: PhotoField) {
      const rest = { ...unit().by_photo }
      delete rest[field]
      return { by_photo: Object.keys(rest).length ? rest : undefined }
    },
  }
}
