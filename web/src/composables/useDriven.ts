import { computed, type ComputedRef, type ShallowRef } from 'vue'
import type { Schemas } from '@/api/client'
import type { LiveFrame } from './useLive'

const NONE: Schemas['ChargeNow'][] = []

/** The charges that the program drives on a job, as its live frames tell them. */
export function useDriven(job: ComputedRef<Schemas['JobView'] | null>, frame: ShallowRef<LiveFrame | null>) {
  const running = computed(() => (job.value?.facts.charges ?? []).some((c) => c.driven && !c.end))
  const told = computed(() => (running.value ? (frame.value?.driven ?? NONE) : NONE))
  /** By the number of the charge; one that ended is not what is there now. */
  const driven = computed(() => new Map(told.value.map((d) => [d.charge, d])))
  const rising = computed(() =>
    [...driven.value.values()].flatMap((d) => (d.live?.volts == null ? [] : [{ group: d.group, volts: d.live.volts, target: d.setting.volts, on: !d.off }])),
  )
  return { driven, rising }
}
