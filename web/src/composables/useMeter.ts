import { useStorage } from '@vueuse/core'
import { computed, onScopeDispose, shallowRef, watch } from 'vue'
import { client, type Schemas } from '@/api/client'
import { tapsOf } from './points'
import type { Point } from './useFigure'
import { fresh, type LiveInstrument, useLive } from './useLive'

export type Probes = Required<Schemas['Probes']>
/** Probes in the air; what is wanted of them is laid over it. */
export const NOWHERE = { at: 'air', black: 0, red: 0, sensor: 1, black_lead: '', red_lead: '' } as const

const RETRY_MS = 250

/** Where the probes go to read a point. */
export function probesAt(point: Point): Partial<Probes> {
  const taps = tapsOf(point)
  return taps ? { at: 'taps', black: taps[0], red: taps[1] } : { at: 'terminals' }
}

/**
 * A live meter: off, or one of those there are. A stand-in's probes go where `wanted` says; a real one's hand is the
 * technician's own. `settled` is told each value that has settled, once a touch.
 */
export function useMeter(jobId: () => number, wanted: () => Partial<Probes> | null, settled: (volts: number, name: string) => Promise<unknown> | null) {
  const { frame } = useLive()
  const chosen = useStorage('saldatura.live-meter', '')
  const taken = shallowRef(0)

  const meters = computed(() => (frame.value?.instruments ?? []).filter((i) => i.kind === 'meter'))
  const meter = computed<LiveInstrument | null>(() => meters.value.find((m) => m.key === chosen.value) ?? null)
  const standIn = computed(() => meter.value?.key === 'stand-in-meter')
  const volts = computed(() => (fresh(meter.value) ? (meter.value!.live!.volts ?? null) : null))
  const share = computed(() => (fresh(meter.value) ? (meter.value!.steady?.share ?? 0) : 0))

  /** Off, then each meter there is in turn. */
  function next() {
    const keys = ['', ...meters.value.map((m) => m.key)]
    chosen.value = keys[(keys.indexOf(meter.value?.key ?? '') + 1) % keys.length]!
    taken.value = meter.value?.steady?.touch ?? 0
  }

  // One at a time, and the last word last: two on their way at once may arrive the other way round.
  let placing = false
  let moved = false
  async function place() {
    moved = true
    if (placing) return
    placing = true
    while (moved) {
      moved = false
      try {
        await client.POST('/api/jobs/{job_id}/virtual/probes', { params: { path: { job_id: jobId() } }, body: { ...NOWHERE, ...wanted() } })
      } catch {
        // The program does not answer; the probes are put there when it does.
      }
    }
    placing = false
  }

  watch(
    [() => JSON.stringify(wanted()), standIn],
    ([, on]) => {
      if (!on) return
      // What has settled by now settled where the probes were before.
      taken.value = meter.value?.steady?.touch ?? 0
      void place()
    },
    { immediate: true },
  )

  /** Whether the simulated probes are where they are wanted. */
  function arrived() {
    const at = frame.value?.virtual?.probes
    const to = { ...NOWHERE, ...wanted() }
    return !at || Object.entries(to).every(([key, value]) => at[key as keyof typeof at] === value)
  }

  function attempt() {
    const steady = meter.value?.steady
    if (!steady || steady.volts === null || steady.touch === taken.value || !fresh(meter.value)) return
    // A simulated hand that is still on its way shows what it read before.
    if (standIn.value && !arrived()) return void (placing || wanted() === null || place())
    if (settled(steady.volts, meter.value!.name)) taken.value = steady.touch
  }
  watch(() => meter.value?.steady, attempt)
  // A value that settled while the one before was still being kept is not told again by itself.
  const again = setInterval(attempt, RETRY_MS)
  onScopeDispose(() => clearInterval(again))

  /** What the meter shows now, settled or not; this touch is then not taken again. */
  function now(): { volts: number; name: string } | null {
    if (!meter.value || volts.value === null) return null
    taken.value = meter.value.steady?.touch ?? 0
    return { volts: volts.value, name: meter.value.name }
  }

  return { meter, meters, next, now, share, standIn, volts }
}
