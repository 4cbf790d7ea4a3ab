import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useJob } from '@/composables/useJob'

export type Block = Schemas['Block']

/** The job's block as it is computed from its facts; asked again with every new fact. */
export function useBlock() {
  const job = useJob()
  return useQuery({
    queryKey: computed(() => ['block', job.value.facts.id, job.value.facts.last_id]),
    queryFn: () => settled(client.GET('/api/jobs/{job_id}/block', { params: { path: { job_id: job.value.facts.id } } })),
    placeholderData: (before) => before,
    retry: false,
  })
}
