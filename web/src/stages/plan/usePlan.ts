import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useJob } from '@/composables/useJob'

export type JobPlan = Schemas['JobPlan']
export type Told = Schemas['NewNeed']

/** The job's repairs side by side; with `asked`, by need and prices that are being typed and not kept yet. */
export function usePlan(asked: Ref<Told | null>) {
  const job = useJob()
  return useQuery({
    queryKey: computed(() => ['plan', job.value.facts.id, job.value.facts.last_id, asked.value]),
    queryFn: () => {
      const params = { path: { job_id: job.value.facts.id } }
      return asked.value === null ? settled(client.GET('/api/jobs/{job_id}/plan', { params })) : settled(client.POST('/api/jobs/{job_id}/plan', { params, body: asked.value }))
    },
    placeholderData: keepPreviousData,
    retry: false,
  })
}
