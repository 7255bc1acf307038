import { useIntervalFn } from '@vueuse/core'
import { reactive } from 'vue'
import { api, ask, Refused } from '@/api/client'
import type { Instrument } from './figures'

/** As much of Web Serial as is used here: not every browser has it, nor every type library. */
interface Port {
  open(options: { baudRate: number }): Promise<void>
  close(): Promise<void>
  readable: ReadableStream<Uint8Array> | null
}
interface Serial {
  requestPort(): Promise<Port>
}
const serial = () => (navigator as { serial?: Serial }).serial

/** Whether instruments can hang on a cable of this device. */
export const hasCables = () => !!serial()

/** Which instruments hang on a cable here, and what is wrong with one. */
export const cables = reactive({} as Record<string, { problem: string }>)

/** The speed instruments speak at, by docs/instruments.md. */
const baudRate = 9600
const sendMS = 200
const linesMost = 100

/** Reads an instrument on a cable, a reading a line, and hands them on until it is pulled. */
export async function plug(i: Instrument) {
  const port = await serial()!
    .requestPort()
    .catch(() => null) // nobody chose one
  if (!port) return
  await port.open({ baudRate })
  const reader = port
    .readable!.pipeThrough(new TextDecoderStream() as never)
    .getReader() as ReadableStreamDefaultReader<string>
  cables[i.id] = { problem: '' }
  let waiting: { at: number; text: string }[] = []
  const send = async () => {
    const lines = waiting.splice(0, linesMost)
    if (!lines.length) return
    const body = { lines: lines.map((l) => ({ ago_s: (Date.now() - l.at) / 1000, text: l.text })) }
    try {
      const r = await ask(api.POST('/api/instruments/{id}/lines', { params: { path: { id: i.id } }, body }))
      if (cables[i.id]) cables[i.id]!.problem = r.problem ?? ''
    } catch (e) {
      if (!(e instanceof Refused)) throw e
      // Away for a moment: they go with the next. What is older than the server takes is nobody's any more.
      waiting = [...lines, ...waiting].filter((l) => Date.now() - l.at < 100_000)
    }
  }
  const { pause } = useIntervalFn(() => void send(), sendMS)
  try {
    let rest = ''
    for (let r = await reader.read(); !r.done; r = await reader.read()) {
      const parts = (rest + r.value).split(/\r?\n/)
      rest = parts.pop()!.slice(-200)
      for (const text of parts) if (text.trim()) waiting.push({ at: Date.now(), text })
    }
  } catch {
    // the cable was pulled
  }
  pause()
  await send()
  delete cables[i.id]
  await port.close().catch(() => {})
}
