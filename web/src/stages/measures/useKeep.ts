import { shallowRef } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'

type NewMeasure = Schemas['AcirMeasure'] | Schemas['StepMeasure'] | Schemas['SensorMeasure'] | Schemas['PathMeasure'] | Schemas['WiggleMeasure'] | Schemas['CapacityMeasure'] | Schemas['CapacityFile']

/** Keep a measure with the job. `done` names what was kept last, until the next is begun. */
export function useKeep() {
  const job = useJob()
  const { act, busy, refusal } = useAct()
  const done = shallowRef(false)

  async function keep(measure: NewMeasure): Promise<boolean> {
    done.value = (await act(() => settled(client.POST('/api/jobs/{job_id}/measures', { params: { path: { job_id: job.value.facts.id } }, body: measure })))) !== null
    return done.value
  }

  return { busy, done, keep, refusal }
}
