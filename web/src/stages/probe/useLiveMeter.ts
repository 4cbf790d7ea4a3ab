import { probesAt, useMeter } from '@/composables/useMeter'
import type { useProbeRun } from './useProbeRun'

type Run = ReturnType<typeof useProbeRun>

/** A live meter in the run: its value in the field, taken once it has settled; a stand-in's probes follow the run. */
export function useLiveMeter(run: Run, jobId: () => number) {
  const live = useMeter(
    jobId,
    () => (run.current.value ? probesAt(run.current.value.point) : null),
    (volts, name) => (run.current.value && !run.text.value && !run.questioned.value ? run.take(volts, name) : null),
  )

  /** The pedal: take what the meter shows now, settled or not. */
  async function force(): Promise<boolean> {
    const now = run.current.value ? live.now() : null
    if (!now) return false
    await run.take(run.questioned.value?.volts ?? now.volts, now.name, run.questioned.value !== null)
    return true
  }

  return { ...live, force }
}
