import { useQuery } from '@tanstack/vue-query'
import { useStorage } from '@vueuse/core'
import { computed, type Ref, ref } from 'vue'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { quantity } from '@/forms/quantity'
import { useJob } from '@/composables/useJob'

export type PlanTarget = 'match' | 'full' | 'storage' | 'rest'

/** The hours of a bench day as windows from now, in seconds: until tonight, and from tomorrow morning on. */
export function attended(until: string, from: string, now = new Date()): Schemas['Attended'][] {
  const at = (text: string, day: number) => {
    const [h, m] = text.split(':').map(Number)
    const when = new Date(now)
    when.setDate(when.getDate() + day)
    when.setHours(h!, m!, 0, 0)
    return (when.getTime() - now.getTime()) / 1000
  }
  if (!/^\d{1,2}:\d{2}$/.test(until) || !/^\d{1,2}:\d{2}$/.test(from)) return []
  const windows: Schemas['Attended'][] = []
  for (let day = 0; day < 4; day++) {
    const begins = day === 0 ? Math.max(at(from, 0), 0) : at(from, day)
    const ends = at(until, day)
    if (ends > begins) windows.push({ from_s: begins, to_s: ends })
  }
  return windows
}

/** The levelling planned over the shop's channels, asked again with every new fact, and its other ways when they are wanted. */
export function usePlan(target: Ref<PlanTarget>, rest: Ref<string>) {
  const job = useJob()
  const hours = useStorage('saldatura.bench-hours', { until: '', from: '' })
  const without = ref<string[]>([])
  const wantsOptions = ref(false)
  const question = (): Schemas['LevelPlanQuestion'] => {
    const volts = target.value === 'rest' ? quantity(rest.value, 'V') : null
    if (target.value === 'rest' && volts === null) throw new Refusal([{ field: 'target', message: 'type the rest voltage that all are to be brought to, as in 3.9' }], 0)
    return { target: target.value === 'rest' ? { rest_v: volts! } : target.value, attended: attended(hours.value.until, hours.value.from), without: without.value }
  }
  const asks = computed(() => [target.value, target.value === 'rest' ? rest.value : '', hours.value.until, hours.value.from, without.value.join()])
  const key = computed(() => [job.value.facts.id, job.value.facts.last_id, ...asks.value])
  const params = () => ({ path: { job_id: job.value.facts.id } })
  const plan = useQuery({
    queryKey: computed(() => ['level-plan', ...key.value]),
    queryFn: async () => {
      const answers = asks.value.join('\n')
      return { ...(await settled(client.POST('/api/jobs/{job_id}/level-plan', { params: params(), body: question() }))), from: Date.now(), answers }
    },
    retry: false,
    placeholderData: (before) => before,
  })
  const options = useQuery({
    queryKey: computed(() => ['level-options', ...key.value]),
    queryFn: () => settled(client.POST('/api/jobs/{job_id}/level-plan/options', { params: params(), body: question() })),
    enabled: wantsOptions,
    retry: false,
  })
  // The plan before stays in sight while another is made: it answers another question then, and nothing is begun by it.
  const anew = computed(() => plan.data.value !== undefined && plan.data.value.answers !== asks.value.join('\n'))
  return { plan, anew, options, hours, without, wantsOptions }
}
