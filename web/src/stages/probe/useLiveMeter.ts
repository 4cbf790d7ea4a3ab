import { useStorage } from '@vueuse/core'
import { computed, shallowRef, watch } from 'vue'
import { client } from '@/api/client'
import { type LiveInstrument, useLive } from '@/composables/useLive'
import type { useProbeRun } from './useProbeRun'

type Run = ReturnType<typeof useProbeRun>

/** A live meter in the run: its value in the field, taken once it has settled; a stand-in's probes follow the run. */
export function useLiveMeter(run: Run, jobId: () => number, series: () => number) {
  const { frame } = useLive()
  const wanted = useStorage('saldatura.live-meter', '')
  const taken = shallowRef(0)

  const meters = computed(() => (frame.value?.instruments ?? []).filter((i) => i.kind === 'meter'))
  const meter = computed<LiveInstrument | null>(() => meters.value.find((m) => m.key === wanted.value) ?? null)
  const standIn = computed(() => meter.value?.key === 'stand-in-meter')
  const volts = computed(() => meter.value?.live?.volts ?? null)
  const share = computed(() => meter.value?.steady?.share ?? 0)

  /** Off, then each meter there is in turn. */
  function next() {
    const keys = ['', ...meters.value.map((m) => m.key)]
    wanted.value = keys[(keys.indexOf(meter.value?.key ?? '') + 1) % keys.length]!
    taken.value = meter.value?.steady?.touch ?? 0
  }

  // The simulated hand goes where the run is; a real one is the technician's own.
  watch(
    [() => run.current.value?.words, standIn],
    ([words, on]) => {
      if (!on) return
      const point = run.current.value?.point
      const probes = !words || !point
        ? { at: 'air' as const }
        : point.kind === 'tap' ? { at: 'taps' as const, black: 0, red: point.tap }
        : point.kind === 'group' ? { at: 'taps' as const, black: point.group - 1, red: point.group }
        : point.kind === 'span' ? { at: 'taps' as const, black: point.from_tap, red: point.to_tap }
        : series() > 0 ? { at: 'terminals' as const } : { at: 'air' as const }
      void client.POST('/api/jobs/{job_id}/virtual/probes', { params: { path: { job_id: jobId() } }, body: { black: 0, red: 0, sensor: 1, ...probes } })
    },
    { immediate: true },
  )

  watch(
    () => meter.value?.steady,
    async (steady) => {
      if (!steady || steady.volts === null || steady.touch === taken.value) return
      if (!run.current.value || run.text.value || run.questioned.value) return
      taken.value = steady.touch
      await run.take(steady.volts, meter.value!.name)
    },
  )

  /** The pedal: take what the meter shows now, settled or not. */
  async function force(): Promise<boolean> {
    if (!meter.value || volts.value === null || !run.current.value) return false
    taken.value = meter.value.steady?.touch ?? 0
    await run.take(run.questioned.value?.volts ?? volts.value, meter.value.name, run.questioned.value !== null)
    return true
  }

  return { force, meter, meters, next, share, volts }
}
