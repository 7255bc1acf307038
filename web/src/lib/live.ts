import { onBeforeUnmount, onMounted, ref, watch, type Ref } from 'vue'
import type { LogEvent } from '@/core/core'
import { newId } from '@/lib/id'

/** Someone who has the job open on a screen. */
export interface Here {
  tab: string
  user_id: string
  name: string
}

const tab = newId()
const again = 4000

/**
 * The live log of a job, from `end` on, as far as it is here without a gap: `changed` is called when something was
 * written to it that is newer than `head`, by whoever and through whichever server. A tab that nobody looks at lets go of its connection (a browser has only a few for
 * one shop) and catches up when it is looked at again.
 */
export function useLive(
  id: Ref<string>,
  head: () => number,
  end: () => number,
  changed: () => void,
  heard: (event: LogEvent) => void = () => {},
) {
  const here = ref<Here[]>([])
  let source: EventSource | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  function close() {
    clearTimeout(timer)
    source?.close()
    source = null
  }
  function open() {
    close()
    if (!id.value || document.visibilityState === 'hidden' || typeof EventSource === 'undefined') return
    const s = new EventSource(`/api/jobs/${id.value}/live?tab=${tab}&since=${end()}`)
    s.addEventListener('log', (e) => {
      const m = e as MessageEvent
      if (m.data) heard(JSON.parse(m.data as string) as LogEvent)
      if (Number(m.lastEventId) > head()) changed()
    })
    s.addEventListener('here', (e) => {
      here.value = (JSON.parse((e as MessageEvent).data) as Here[]).filter((h) => h.tab !== tab)
    })
    s.onerror = () => {
      // A browser gives up for good on some answers (signed out, the server away behind a proxy): asked again later.
      if (s.readyState === EventSource.CLOSED) timer = setTimeout(open, again)
    }
    source = s
  }
  const look = () => {
    if (document.visibilityState === 'visible') changed()
    open()
  }
  watch(id, open)
  onMounted(() => {
    document.addEventListener('visibilitychange', look)
    open()
  })
  onBeforeUnmount(() => {
    document.removeEventListener('visibilitychange', look)
    close()
  })
  return { here }
}
