import { type ComputedRef, inject, type InjectionKey, provide } from 'vue'
import type { JobView } from '@/api/queries'

const KEY: InjectionKey<ComputedRef<JobView>> = Symbol('job')

/** Give the job of the frame to the stage inside it. */
export const provideJob = (job: ComputedRef<JobView>) => provide(KEY, job)

/** The job of the frame. */
export function useJob(): ComputedRef<JobView> {
  const job = inject(KEY)
  if (!job) throw new Error('useJob outside a job frame')
  return job
}
