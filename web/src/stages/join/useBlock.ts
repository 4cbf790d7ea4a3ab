import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref, shallowRef, toRaw } from 'vue'
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

export type Change = Partial<Told> | ((entered: Told) => Partial<Told>)

// For each job, what is being kept, and what was kept last with the block that was shown then: until another block comes, that is what holds.
const turns = new Map<number, Promise<unknown>>()
const kept = new Map<number, { body: Told; shown: Block }>()

/** Keeps a change of what is told of the block; all else of it stays as told, from whichever form. What is changed while another change is
 * being kept is kept after it, and one that is made of what was told is made then. */
export function useKeepBlock(block: Ref<Block>) {
  const job = useJob()
  const { act, refusal } = useAct()
  const waiting = shallowRef(0)
  const busy = computed(() => waiting.value > 0)

  async function send(change: Change, from: Element | null): Promise<Schemas['JobView'] | null> {
    const { id } = job.value.facts
    const last = kept.get(id)
    const entered = last && last.shown === toRaw(block.value) ? last.body : (block.value.entered as Told)
    const body = { ...entered, ...(typeof change === 'function' ? change(entered) : change) } as Told
    const view = await act(() => settled(client.POST('/api/jobs/{job_id}/block', { params: { path: { job_id: id }, query: { seen: job.value.facts.last_id } }, body })), from)
    if (view) kept.set(id, { body, shown: toRaw(block.value) })
    return view
  }
  function keep(change: Change): Promise<Schemas['JobView'] | null> {
    const { id } = job.value.facts
    // The hand has gone on by the time this is kept: a refusal must not take the field it is in by then for the one that asked.
    const from = document.activeElement
    waiting.value++
    const turn = (turns.get(id) ?? Promise.resolve()).then(() => send(change, from)).finally(() => waiting.value--)
    turns.set(id, turn.catch(() => null))
    return turn
  }
  return { keep, busy, refusal }
}
