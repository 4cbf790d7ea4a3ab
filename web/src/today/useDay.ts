import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient } from '@/api/queries'

export type DayNow = Schemas['DayNow']

const AGAIN_MS = 30_000

/** The day as planned; asked again at once while some jobs are still being looked at. */
export function useDayQuery() {
  return useQuery({
    queryKey: ['day'],
    queryFn: () => settled(client.GET('/api/day')),
    refetchInterval: (query) => (query.state.data?.pending ? 300 : AGAIN_MS),
    placeholderData: (before) => before,
  })
}

/** The day as an act gave it back, shown at once. */
export const keepDay = (day: DayNow) => queryClient.setQueryData(['day'], day)

/** Tell that nobody is here, or that somebody is, until then. */
export async function tellPresence(until: Date, here: boolean) {
  keepDay(await settled(client.POST('/api/presence', { body: { until: until.toISOString(), here } })))
}

/** The calendar that takes time from the hours. */
export const useCalendarQuery = () => useQuery({ queryKey: ['calendar'], queryFn: () => settled(client.GET('/api/calendar')) })

/** When a job may be promised; of a pack at the counter where no job is given. */
export function usePromiseQuery(job: () => number | null) {
  return useQuery({
    queryKey: computed(() => ['promise', job()]),
    queryFn: () => {
      const id = job()
      return settled(id === null ? client.GET('/api/promise') : client.GET('/api/jobs/{job_id}/promise', { params: { path: { job_id: id } } }))
    },
    placeholderData: (before) => before,
  })
}
