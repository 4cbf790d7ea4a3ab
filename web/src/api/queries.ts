import { QueryClient, useQuery } from '@tanstack/vue-query'
import { computed, type MaybeRefOrGetter, toValue, watch } from 'vue'
import { useSettings } from '@/composables/useSettings'
import { client, type Schemas, settled } from './client'

export type JobView = Schemas['JobView']

export const queryClient = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 1000, refetchOnWindowFocus: true } },
})

// Sentences hold temperatures in the unit that was asked for.
watch(() => useSettings().value.fahrenheit, () => queryClient.invalidateQueries())

// What changed is told over a socket (useChanges); this is for what is never told, as by another program on the same file.
const SELDOM_MS = 60_000

/** A job; fetched again when it is told that it changed, so that a second window's readings appear here too. */
export function useJobQuery(id: MaybeRefOrGetter<number>) {
  return useQuery({
    queryKey: computed(() => ['job', toValue(id)]),
    queryFn: () => settled(client.GET('/api/jobs/{job_id}', { params: { path: { job_id: toValue(id) } } })),
    refetchInterval: SELDOM_MS,
    retry: false,
    shallow: true,
  })
}

export function useJobsQuery(search: MaybeRefOrGetter<string>, archived: MaybeRefOrGetter<boolean>) {
  return useQuery({
    queryKey: computed(() => ['jobs', toValue(search), toValue(archived)]),
    queryFn: () => settled(client.GET('/api/jobs', { params: { query: { search: toValue(search), archived: toValue(archived), limit: 60 } } })),
    refetchInterval: SELDOM_MS,
    placeholderData: (before) => before,
  })
}

export function useWaitingQuery() {
  return useQuery({ queryKey: ['waiting'], queryFn: () => settled(client.GET('/api/waiting')), refetchInterval: SELDOM_MS })
}

export function useTermsQuery() {
  return useQuery({ queryKey: ['terms'], queryFn: () => settled(client.GET('/api/terms')), staleTime: Infinity }, queryClient)
}

export function usePolicyQuery() {
  return useQuery({ queryKey: ['policy'], queryFn: () => settled(client.GET('/api/policy')) })
}

export function useMeterQuery() {
  return useQuery({ queryKey: ['meter'], queryFn: () => settled(client.GET('/api/meter')) })
}

/** Put a job that an act gave back where every view sees it, at once. */
export function keepJob(view: JobView) {
  const key = ['job', view.facts.id]
  // An answer that was long on its way must not put back what a later one showed.
  const held = queryClient.getQueryData<JobView>(key)
  if (!held || held.facts.last_id <= view.facts.last_id) queryClient.setQueryData(key, view)
}

// What of the shop is shown where; whatever is not named here may show anywhere, as the policy does.
const SHOWN_BY: Record<string, string[]> = {
  meter: ['meter'],
  coupon: ['welds', 'block'],
  blink: ['blinks', 'judgement'],
  prices: ['plan', 'prices'],
  pattern: ['patterns', 'pattern', 'pattern-jobs', 'offers', 'lesson', 'judgement', 'plan'],
  card: ['card'],
  drawer: ['cells', 'plan', 'block'],
  hours: ['day', 'promise'],
  presence: ['day'],
  calendar: ['day', 'promise'],
  channel: ['day', 'channels', 'level', 'level-plan', 'level-options'],
  channel_gone: ['day', 'channels', 'level', 'level-plan', 'level-options'],
  instrument: ['instruments', 'channels'],
  instrument_removed: ['instruments', 'channels'],
  instrument_use: ['instruments', 'channels'],
  instrument_check: ['instruments', 'meter'],
  instrument_shows: ['instruments'],
}

/** What another window, or this one, did: fetch what shows it. */
export function heard(changes: { jobs: Record<string, number>; shop: string[] }) {
  const jobs = Object.entries(changes.jobs)
  for (const [id, last] of jobs) {
    const held = queryClient.getQueryData<JobView>(['job', Number(id)])
    if (held && held.facts.last_id < last) void queryClient.invalidateQueries({ queryKey: ['job', Number(id)] })
  }
  if (jobs.length) {
    void queryClient.invalidateQueries({ queryKey: ['waiting'] })
    void queryClient.invalidateQueries({ queryKey: ['jobs'] })
    void queryClient.invalidateQueries({ queryKey: ['day'] })
    void queryClient.invalidateQueries({ queryKey: ['promise'] })
  }
  if (changes.shop.some((what) => !(what in SHOWN_BY))) void queryClient.invalidateQueries()
  else for (const key of new Set(changes.shop.flatMap((what) => SHOWN_BY[what]!))) void queryClient.invalidateQueries({ queryKey: [key] })
}
