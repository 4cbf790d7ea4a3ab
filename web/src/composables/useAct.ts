import { shallowRef } from 'vue'
import { Refusal } from '@/api/client'
import { type JobView, keepJob } from '@/api/queries'
import { settleFocus } from './focus'

/** Run an act, one at a time, keep the job that it gives back where it does, and hold the refusal where there was one. */
export function useAct() {
  const refusal = shallowRef<Refusal | null>(null)
  const busy = shallowRef(false)

  /** `from`: where the hand was when it asked, for an act that had to wait for another one. */
  async function act<T>(call: () => Promise<T>, from = document.activeElement): Promise<T | null> {
    // A key that bounces does nothing twice.
    if (busy.value) return null
    busy.value = true
    refusal.value = null
    try {
      const given = await call()
      if (isJob(given)) keepJob(given)
      return given
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      refusal.value = error
      return null
    } finally {
      busy.value = false
      void settleFocus(from, refusal.value !== null)
    }
  }

  return { act, busy, refusal }
}

const isJob = (given: unknown): given is JobView => typeof given === 'object' && given !== null && 'facts' in given && 'assessment' in given
