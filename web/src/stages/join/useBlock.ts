import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
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

/** Keeps a change of what is told of the block; all else of it stays as told. What is changed while another is being kept is kept after it. */
export function useKeepBlock(block: Ref<Block>) {
  const job = useJob()
  const { act, busy, refusal } = useAct()
  let waiting: Partial<Told> | null = null
  let waitsFrom: Element | null = null

  async function keep(change: Partial<Told>, entered: Told = block.value.entered as Told, from = document.activeElement): Promise<Schemas['JobView'] | null> {
    if (busy.value) {
      waiting = { ...waiting, ...change }
      // The hand has gone on by the time this is kept: a refusal must not take the field it is in by then for the one that asked.
      waitsFrom = from
      return null
    }
    const body = { ...entered, ...change } as Told
    const kept = await act(() => settled(client.POST('/api/jobs/{job_id}/block', { params: { path: { job_id: job.value.facts.id }, query: { seen: job.value.facts.last_id } }, body })), from)
    const next = waiting
    waiting = null
    return next ? keep(next, kept ? body : entered, waitsFrom) : kept
  }
  return { keep: (change: Partial<Told>) => keep(change), busy, refusal }
}
