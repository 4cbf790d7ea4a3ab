import { QueryClient, useQuery } from '@tanstack/vue-query'
import { computed, type MaybeRefOrGetter, toValue } from 'vue'
import { client, type Schemas, settled } from './client'

export type JobView = Schemas['JobView']

export const queryClient = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 1000, refetchOnWindowFocus: true } },
})

/** A job; asked again every few seconds, so that a second window's readings appear here too. */
export function useJobQuery(id: MaybeRefOrGetter<number>) {
  return useQuery({
    queryKey: computed(() => ['job', toValue(id)]),
    queryFn: () => settled(client.GET('/api/jobs/{job_id}', { params: { path: { job_id: toValue(id) } } })),
    refetchInterval: 3000,
    retry: false,
    shallow: true,
  })
}

export function useJobsQuery(search: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: computed(() => ['jobs', toValue(search)]),
    queryFn: () => settled(client.GET('/api/jobs', { params: { query: { search: toValue(search), limit: 60 } } })),
    refetchInterval: 5000,
    placeholderData: (before) => before,
  })
}

export function useWaitingQuery() {
  return useQuery({ queryKey: ['waiting'], queryFn: () => settled(client.GET('/api/waiting')), refetchInterval: 5000 })
}

export function useTermsQuery() {
  return useQuery({ queryKey: ['terms'], queryFn: () => settled(client.GET('/api/terms')), staleTime: Infinity })
}

export function useMeterQuery() {
  return useQuery({ queryKey: ['meter'], queryFn: () => settled(client.GET('/api/meter')) })
}

/** Put a job that an act gave back where every view sees it, at once. */
export function keepJob(view: JobView) {
  queryClient.setQueryData(['job', view.facts.id], view)
  // The rail and the lists can wait until the reading is drawn.
  setTimeout(() => {
    void queryClient.invalidateQueries({ queryKey: ['waiting'] })
    void queryClient.invalidateQueries({ queryKey: ['jobs'] })
  }, 250)
}
