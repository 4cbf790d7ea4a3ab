import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useInTurn } from '@/composables/useInTurn'
import { useJob } from '@/composables/useJob'

export type Block = Schemas['Block']
export type Told = Schemas['NewBlock']

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

/** Keeps a change of what is told of the block, from whichever form of it. */
export function useKeepBlock(block: Ref<Block>) {
  const job = useJob()
  const path = (known: number) => ({ path: { job_id: job.value.facts.id }, query: { seen: Math.max(job.value.facts.last_id, known) } })
  return useInTurn<Told>(
    () => `block ${job.value.facts.id}`, () => block.value as { entered: Told }, (body, known) => settled(client.POST('/api/jobs/{job_id}/block', { params: path(known), body })),
  )
}
