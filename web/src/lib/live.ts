import { useIntervalFn } from '@vueuse/core'
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
/** A stream says that it lives every few seconds; one that has been silent for this long is half open, and tells nothing. */
const silentMS = 20_000

/**
 * The live log of a job, from `end` on, as far as it is here without a gap: `heard` is called with each event that was
 * written to it, by whoever and through whichever server; `changed` when something may have been missed. A tab that nobody looks at lets go of its connection (a browser has only a few for
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
  /** Whether what others do is heard. */
  const live = ref(true)
  let sign = performance.now()
  const watchdog = useIntervalFn(
    () => {
      if (performance.now() - sign < silentMS) return
      changed()
      open()
      live.value = false // until it is heard again
    },
    silentMS / 4,
    { immediate: false },
  )
  let source: EventSource | null = null
  let timer: ReturnType<typeof setTimeout> | undefined
  function close() {
    clearTimeout(timer)
    watchdog.pause()
    source?.close()
    source = null
  }
  function open() {
    close()
    if (!id.value || document.visibilityState === 'hidden' || typeof EventSource === 'undefined') return
    const s = new EventSource(`/api/jobs/${id.value}/live?tab=${tab}&since=${end()}`)
    const alive = () => {
      sign = performance.now()
      live.value = true
    }
    alive()
    watchdog.resume()
    s.addEventListener('alive', alive)
    s.addEventListener('log', (e) => {
      alive()
      const m = e as MessageEvent
      if (m.data) heard(JSON.parse(m.data as string) as LogEvent)
      else if (Number(m.lastEventId) > head()) changed()
    })
    s.addEventListener('here', (e) => {
      alive()
      here.value = (JSON.parse((e as MessageEvent).data) as Here[]).filter((h) => h.tab !== tab)
    })
    s.onerror = () => {
      live.value = false
      // A browser gives up for good on some answers (signed out, the server away behind a proxy): asked again later.
      if (s.readyState !== EventSource.CLOSED) return
      changed() // a call of its own says why, where it is that nobody is signed in here any more
      timer = setTimeout(open, again)
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
  return { here, live }
}
