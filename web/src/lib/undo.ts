import { computed } from 'vue'
import { t } from '@/lib/words'
import { useJob } from '@/stores/job'
import { useSession } from '@/stores/session'

/** What undo takes back at a counting station: one's own last; somebody else's, named, where one may. */
export function useUndo(at: 'bench' | 'bleed') {
  const store = useJob()
  const session = useSession()
  const done = computed(() => store.job!.state.last_by?.[at] ?? [])
  const own = computed(() => done.value.find((d) => d.by_id === session.user?.id))
  const target = computed(() => own.value ?? (session.may('undo_others') ? done.value.at(-1) : undefined))
  const label = computed(() => {
    if (!own.value && done.value.length) return t('ui.undo_of', { name: done.value.at(-1)!.by })
    return t('ui.undo')
  })
  const undo = () => {
    if (target.value) void store.undo(target.value.id)
  }
  return { undo, label, can: computed(() => !!target.value) }
}
