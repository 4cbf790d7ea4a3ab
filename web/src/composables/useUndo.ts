import { computed, shallowRef } from 'vue'
import { client, settled } from '@/api/client'
import { pressedAt } from './hand'
import { useAct } from './useAct'
import { useJob } from './useJob'

// A key that bounces, or is hit once more for luck, takes one act back and not two.
const BOUNCE_MS = 500

/** The act just done, and taking it back for as long as nothing rests on it; what was taken back is done again by sending it once more. */
export function useUndo() {
  const job = useJob()
  const { act, busy, refusal } = useAct()
  const last = computed(() => job.value.assessment.undo ?? null)
  const undone = shallowRef<string | null>(null)
  let at = 0

  async function undo() {
    if (!last.value || busy.value || pressedAt() - at < BOUNCE_MS) return
    const { fact, words } = last.value
    const params = { path: { job_id: job.value.facts.id } }
    if (await act(() => settled(client.POST('/api/jobs/{job_id}/taken-back', { params, body: { fact, reason: 'undone' } })))) undone.value = words
    at = performance.now()
  }

  const again = computed(() => job.value.assessment.redo ?? null)
  async function redo() {
    if (!again.value || busy.value || pressedAt() - at < BOUNCE_MS) return
    const { path, body } = again.value
    // It goes where it went first, past the same gates; what was asked about was answered then.
    const to = `/api/jobs/{job_id}/${path}` as '/api/jobs/{job_id}/notes'
    if (await act(() => settled(client.POST(to, { params: { path: { job_id: job.value.facts.id }, query: { sure: true } }, body: body as never })))) undone.value = null
    at = performance.now()
  }

  return { again, busy, last, redo, refusal, undo, undone }
}
