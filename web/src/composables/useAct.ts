import { shallowRef } from 'vue'
import { Refusal } from '@/api/client'
import { type JobView, keepJob } from '@/api/queries'

/** Run an act on a job, keep what it gives back, and hold the refusal where there was one. */
export function useAct() {
  const refusal = shallowRef<Refusal | null>(null)
  const busy = shallowRef(false)

  async function act(call: () => Promise<JobView>): Promise<JobView | null> {
    busy.value = true
    refusal.value = null
    try {
      const view = await call()
      keepJob(view)
      return view
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      refusal.value = error
      return null
    } finally {
      busy.value = false
    }
  }

  return { act, busy, refusal }
}
