import { useQuery } from '@tanstack/vue-query'
import { computed, type ComputedRef } from 'vue'
import { client, type Schemas, settled } from '@/api/client'

/** The charges that the program drives on a job, as they stand; asked for while one is minded. */
export function useDriven(job: ComputedRef<Schemas['JobView'] | null>) {
  const running = computed(() => (job.value?.facts.charges ?? []).filter((c) => c.driven && !c.end))
  const id = computed(() => job.value?.facts.id ?? 0)
  const { data } = useQuery({
    queryKey: computed(() => ['driven', id.value]),
    queryFn: () => settled(client.GET('/api/jobs/{job_id}/driven', { params: { path: { job_id: id.value } } })),
    enabled: computed(() => running.value.length > 0),
    refetchInterval: 1000,
    retry: false,
  })
  /** By the number of the charge. */
  const driven = computed(() => new Map((running.value.length ? (data.value ?? []) : []).map((d) => [d.charge, d])))
  const rising = computed(() =>
    [...driven.value.values()].flatMap((d) => (d.live?.volts == null ? [] : [{ group: d.group, volts: d.live.volts, target: d.setting.volts, on: !d.off }])),
  )
  return { driven, rising }
}
