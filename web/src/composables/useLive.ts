import { inject, type InjectionKey, onScopeDispose, provide, type Ref, type ShallowRef, shallowRef, watch } from 'vue'
import type { Schemas } from '@/api/client'

export type LiveFrame = Schemas['LiveFrame']
export type LiveInstrument = Schemas['LiveInstrument']

interface Live {
  /** The newest frame; null until the first, and while the program does not answer. */
  frame: ShallowRef<LiveFrame | null>
  /** The log's entries so far, oldest first. */
  samples: ShallowRef<Schemas['LoggedSample'][]>
}

const KEY: InjectionKey<Live> = Symbol('live')
const RETRY_MS = 700
const MOST_SAMPLES = 5000

/** One stream for the whole page of a job; it comes back by itself and asks for what it missed. */
export function provideLive(id: Ref<number>): Live {
  const live: Live = { frame: shallowRef(null), samples: shallowRef([]) }
  let socket: WebSocket | null = null
  let retry: ReturnType<typeof setTimeout> | undefined

  function open() {
    const after = live.samples.value.at(-1)?.id ?? 0
    socket = new WebSocket(`${location.origin.replace('http', 'ws')}/api/jobs/${id.value}/stream?after=${after}`)
    socket.onmessage = (event: MessageEvent<string>) => {
      const frame = JSON.parse(event.data) as LiveFrame
      const fresh = frame.samples ?? []
      if (fresh.length) live.samples.value = [...live.samples.value, ...fresh].slice(-MOST_SAMPLES)
      live.frame.value = frame
    }
    socket.onclose = () => {
      live.frame.value = null
      retry = setTimeout(open, RETRY_MS)
    }
  }

  function close() {
    clearTimeout(retry)
    if (socket) socket.onclose = null
    socket?.close()
    live.frame.value = null
    live.samples.value = []
  }

  watch(id, () => {
    close()
    open()
  }, { immediate: true })
  onScopeDispose(close)
  provide(KEY, live)
  return live
}

/** The live values of the job on this page. */
export function useLive(): Live {
  const live = inject(KEY)
  if (!live) throw new Error('useLive outside a job frame')
  return live
}

/** A live value as its instrument shows it. */
export function shown(instrument: LiveInstrument): string {
  const live = instrument.live
  if (!live) return '–'
  const parts: string[] = []
  const digits = instrument.accuracy ? Math.max(0, Math.min(4, Math.round(-Math.log10(instrument.accuracy.resolution_v)))) : 2
  if (live.celsius?.length) parts.push(live.celsius.map((c, i) => `${i === 0 ? 'pack' : 'air'} ${c.toFixed(1)} °C`).join('  '))
  if (live.volts != null) parts.push(`${live.volts.toFixed(digits).replace('-', '−')} V`)
  if (live.ohm != null) parts.push(live.ohm >= 10_000 ? `${(live.ohm / 1000).toFixed(2)} kΩ` : `${live.ohm.toFixed(1)} Ω`)
  if (live.amps != null) parts.push(`${live.amps.toFixed(2).replace('-', '−')} A`)
  if (live.ah != null) parts.push(`${live.ah.toFixed(3)} Ah`)
  return parts.join('  ') || 'overflow'
}

export const stateWords: Record<LiveInstrument['state'], string> = {
  connecting: 'connecting',
  live: 'answers',
  slow: 'slow',
  silent: 'silent',
  rubbish: 'talks rubbish',
  gone: 'gone',
}
