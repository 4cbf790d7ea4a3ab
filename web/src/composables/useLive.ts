import { replaceEqualDeep } from '@tanstack/vue-query'
import { useWebSocket } from '@vueuse/core'
import { computed, type ComputedRef, inject, type InjectionKey, onScopeDispose, provide, type Ref, type ShallowRef, shallowRef, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { degrees } from './degrees'
import { useNow } from './useNow'

export type LiveFrame = Schemas['LiveFrame']
export type LiveInstrument = Schemas['LiveInstrument']
export type Wish = 'every' | 'outputs'

export interface Live {
  /** The newest frame; null until the first, and while the program does not answer. What it shows turns stale when nothing comes. */
  frame: ShallowRef<LiveFrame | null>
  /** The clock of the virtual pack now, s; it runs on between frames. */
  packSeconds: ComputedRef<number | null>
  /** Ask for every value, changed or not, or for the channels' outputs too, while `wanted` holds. */
  want: (what: Wish, wanted: boolean) => void
  /** The log's entries so far, oldest first. */
  samples: ShallowRef<Schemas['LoggedSample'][]>
}

const KEY: InjectionKey<Live> = Symbol('live')
const RETRY_MS = 700
// The program beats every second while there is anything live.
const SILENT_MS = 2000
const MOST_SAMPLES = 5000

/** One stream for the whole page of a job; it comes back by itself and asks for what it missed. */
export function provideLive(id: Ref<number>): Live {
  const now = useNow()
  let heardAt = 0
  let arrivedAt = 0
  const wishes: Wish[] = []
  const wish = () => send([...new Set(wishes)].join(' '), false)
  const frame = shallowRef<LiveFrame | null>(null)
  const live: Live = {
    frame,
    samples: shallowRef([]),
    packSeconds: computed(() => {
      const clock = frame.value?.virtual?.clock
      if (!clock) return null
      return clock.paused ? clock.clock_s : clock.clock_s + (Math.max(now.value - arrivedAt, 0) / 1000) * clock.speed
    }),
    want(what, wanted) {
      if (wanted) wishes.push(what)
      else wishes.splice(wishes.indexOf(what), wishes.includes(what) ? 1 : 0)
      if (status.value === 'OPEN') wish()
    },
  }
  // Read when a socket opens, and watched by nothing: a new entry of the log opens none.
  let after = 0
  const { open, send, status, close } = useWebSocket(() => `${location.origin.replace('http', 'ws')}/api/jobs/${id.value}/stream?after=${after}`, {
    autoReconnect: { delay: RETRY_MS },
    autoConnect: false,
    immediate: false,
    onConnected: () => wishes.length && wish(),
    onMessage(_, event: MessageEvent<string>) {
      heardAt = performance.now()
      const told = JSON.parse(event.data) as LiveFrame | { beat: true }
      if ('beat' in told) return
      const fresh = told.samples ?? []
      if (fresh.length) live.samples.value = [...live.samples.value, ...fresh].slice(-MOST_SAMPLES)
      after = live.samples.value.at(-1)?.id ?? 0
      arrivedAt = Date.now()
      // What has not changed stays the same thing, so that nothing is drawn anew for it.
      const was = frame.value
      frame.value = { ...told, driven: replaceEqualDeep(was?.driven, told.driven), outputs: replaceEqualDeep(was?.outputs, told.outputs), load_run: replaceEqualDeep(was?.load_run, told.load_run) }
    },
    onDisconnected: () => (frame.value = null),
  })

  function leave() {
    close()
    after = 0
    frame.value = null
    live.samples.value = []
  }

  // A program that has stopped says nothing: what it showed last is not what is there now.
  const watchdog = setInterval(() => {
    if (frame.value?.instruments.some((i) => i.live && !i.stale) && performance.now() - heardAt > SILENT_MS)
      frame.value = { ...frame.value, instruments: frame.value.instruments.map((i) => ({ ...i, stale: i.live !== null })) }
  }, 300)

  watch(id, () => {
    leave()
    open()
  }, { immediate: true })
  onScopeDispose(() => {
    clearInterval(watchdog)
    leave()
  })
  provide(KEY, live)
  return live
}

/** The live values of the job on this page. */
export function useLive(): Live {
  const live = inject(KEY)
  if (!live) throw new Error('useLive outside a job frame')
  return live
}

/** Whether what an instrument shows is there now: it may be captured. */
export const fresh = (instrument: LiveInstrument | null | undefined) => instrument?.live != null && !instrument.stale

/** A live value as its instrument shows it. */
export function shown(instrument: LiveInstrument): string {
  const live = instrument.live
  if (!live) return '–'
  const parts: string[] = []
  const digits = instrument.accuracy ? Math.max(0, Math.min(4, Math.round(-Math.log10(instrument.accuracy.resolution_v)))) : 2
  if (live.celsius?.length) parts.push(live.celsius.map((c, i) => `${i === 0 ? 'pack' : 'air'} ${degrees(c, 1)}`).join('  '))
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
  free: 'talks by itself',
  refused: 'not there',
  unplugged: 'not plugged in',
  gone: 'gone',
  error: 'our own error',
}
