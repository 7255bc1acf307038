/// <reference lib="webworker" />
import './wasm_exec.js'
import url from './core.wasm?url'

/** The worker the core runs in: one message is one call, answered under its number. */
declare const Go: new () => { importObject: WebAssembly.Imports; run(i: WebAssembly.Instance): Promise<void> }
declare const geminateCore: (method: string, input: string) => string

interface Call {
  n: number
  method: string
  input: string
}

const ready = new Promise<void>((done, failed) => {
  Object.assign(globalThis, { geminateReady: done })
  const go = new Go()
  WebAssembly.instantiateStreaming(fetch(url), go.importObject).then(({ instance }) => go.run(instance), failed)
})

self.onmessage = async (e: MessageEvent<Call>) => {
  const { n, method, input } = e.data
  try {
    await ready
    self.postMessage({ n, out: geminateCore(method, input) })
  } catch (err) {
    self.postMessage({ n, broken: String(err) })
  }
}
