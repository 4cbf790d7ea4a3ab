import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useJob } from '@/composables/useJob'

export type Judged = Schemas['Judged']
export type Cause = Schemas['Cause']
export type NextTest = Schemas['NextTest']

/** The job judged by all its evidence; asked again with every new fact. */
export function useJudgement() {
  const job = useJob()
  return useQuery({
    queryKey: computed(() => ['judgement', job.value.facts.id, job.value.facts.last_id]),
    queryFn: () => settled(client.GET('/api/jobs/{job_id}/judgement', { params: { path: { job_id: job.value.facts.id } } })),
    placeholderData: (before) => before,
    staleTime: 30_000,
    retry: false,
  })
}

/** A chance as it is said. */
export function chanceWords(p: number): string {
  if (p >= 0.97) return 'as good as certain'
  if (p >= 0.85) return 'very likely'
  if (p >= 0.6) return 'likely'
  if (p >= 0.35) return 'as likely as not'
  return p >= 0.12 ? 'possible' : 'hardly'
}

/** A chance in percent; never all or nothing while there is any doubt. */
export const percentOf = (p: number) => `${Math.min(Math.max(Math.round(p * 100), 1), 99)} %`
