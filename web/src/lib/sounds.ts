import { t } from './words'

/** What a vehicle sounds like, made from what happens to it: no recordings. All of it stands in words as well. */
type Sound = 'rush' | 'groan' | 'click' | 'clunk' | 'drip'

let context: AudioContext | null = null

function noise(c: AudioContext, seconds: number): AudioBufferSourceNode {
  const buffer = c.createBuffer(1, Math.ceil(c.sampleRate * seconds), c.sampleRate)
  const data = buffer.getChannelData(0)
  for (let i = 0; i < data.length; i++) data[i] = 2 * Math.random() - 1
  const source = c.createBufferSource()
  source.buffer = buffer
  return source
}

/** One voice: a source through a filter, loud at once and gone after its time. */
function voice(
  c: AudioContext,
  source: AudioScheduledSourceNode,
  at: number,
  seconds: number,
  hz: number,
  loud: number,
) {
  const filter = new BiquadFilterNode(c, { type: 'bandpass', frequency: hz, Q: 1.2 })
  const gain = new GainNode(c, { gain: 0 })
  gain.gain.setValueAtTime(0, at)
  gain.gain.linearRampToValueAtTime(loud, at + 0.03)
  gain.gain.exponentialRampToValueAtTime(0.001, at + seconds)
  source.connect(filter).connect(gain).connect(c.destination)
  source.start(at)
  source.stop(at + seconds)
}

const makes: Record<Sound, (c: AudioContext, at: number) => void> = {
  rush: (c, at) => voice(c, noise(c, 1.2), at, 1.2, 2600, 0.25),
  groan: (c, at) => voice(c, new OscillatorNode(c, { type: 'sawtooth', frequency: 82 }), at, 0.9, 240, 0.3),
  click: (c, at) => [0, 0.18, 0.36].forEach((d) => voice(c, noise(c, 0.05), at + d, 0.05, 1800, 0.5)),
  clunk: (c, at) => voice(c, new OscillatorNode(c, { type: 'square', frequency: 60 }), at, 0.2, 120, 0.6),
  drip: (c, at) => voice(c, new OscillatorNode(c, { type: 'sine', frequency: 900 }), at, 0.12, 900, 0.15),
}

/** Plays sounds one after another; where there is no audio nothing is lost: they are said as well. */
export function hear(sounds: readonly string[]) {
  if (!sounds.length) return
  navigator.vibrate?.(sounds.includes('click') ? [20, 160, 20, 160, 20] : 30)
  try {
    context ??= new AudioContext()
    const c = context
    void c.resume()
    sounds.forEach((s, i) => makes[s as Sound]?.(c, c.currentTime + 0.4 * i))
  } catch {
    context = null
  }
}

export const soundWords = (sounds: readonly string[]) => sounds.map((s) => t('heard.' + s)).join(' ')
