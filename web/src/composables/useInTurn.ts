import { computed, shallowRef, toRaw } from 'vue'
import type { JobView } from '@/api/queries'
import { useAct } from './useAct'

export type Change<Entered> = Partial<Entered> | ((entered: Entered) => Partial<Entered>)

// Under each name what is being kept, and what was kept last with what was shown then: until something else is shown, that is what holds.
const turns = new Map<string, Promise<unknown>>()
const kept = new Map<string, { body: unknown; shown: object; fact: number }>()

/**
 * Keeps changes of something that is sent whole, from whichever form: all else of it stays as told. What is changed while another change is
 * being kept is kept after it, and one that is made of what was told is made then. `name`: what it is; `shown`: it as the server last gave it;
 * `post` is told the last fact that is known from what was kept, which the page may not show yet.
 */
export function useInTurn<Entered extends object>(name: () => string, shown: () => { entered: Entered }, post: (body: Entered, known: number) => Promise<JobView>) {
  const { act, refusal } = useAct()
  const waiting = shallowRef(0)
  const busy = computed(() => waiting.value > 0)

  async function send(change: Change<Entered>, from: Element | null): Promise<JobView | null> {
    const key = name()
    const last = kept.get(key)
    const entered = last && last.shown === toRaw(shown()) ? (last.body as Entered) : shown().entered
    const body = { ...entered, ...(typeof change === 'function' ? change(entered) : change) }
    const view = await act(() => post(body, last?.fact ?? 0), from)
    if (view) kept.set(key, { body, shown: toRaw(shown()), fact: view.facts.last_id })
    return view
  }
  function keep(change: Change<Entered>): Promise<JobView | null> {
    const key = name()
    // The hand has gone on by the time this is kept: a refusal must not take the field it is in by then for the one that asked.
    const from = document.activeElement
    waiting.value++
    const turn = (turns.get(key) ?? Promise.resolve()).then(() => send(change, from)).finally(() => waiting.value--)
    turns.set(key, turn.catch(() => null))
    return turn
  }
  return { keep, busy, refusal }
}
