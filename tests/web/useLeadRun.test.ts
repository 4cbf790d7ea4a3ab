import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, effectScope, nextTick, ref } from 'vue'
import { queryClient } from '@/api/queries'
import { useLeadRun } from '@/stages/leads/useLeadRun'

type Body = { corrects?: boolean; reason?: string; lead?: string; volts?: number; tap?: number; at?: string; red_lead?: string; black_lead?: string; red?: number }
const posted: { path: string; body: Body }[] = []
const meter = ref<{ volts: number | null; steady: { share: number; volts: number | null; touch: number } }>({ volts: null, steady: { share: 0, volts: null, touch: 0 } })
const old = ref(false)
const loose = ref<string[]>([])
const leads = ref<{ lead: string; volts: number }[]>([])
const joined = ref<number[]>([])
const refuse = ref<string | null>(null)
const order = ['grey', 'brown', 'red']

vi.mock('@/composables/useVoice', () => ({ say: () => {}, tone: () => {} }))
vi.mock('@vueuse/core', async (original) => ({ ...(await original<object>()), useStorage: () => ref('stand-in-meter') }))
vi.mock('@/composables/useLive', () => ({
  fresh: (instrument: { live: object | null; stale: boolean } | null) => instrument?.live != null && !instrument.stale,
  useLive: () => ({
    frame: computed(() => ({
      virtual: { loose: loose.value },
      instruments: [{ key: 'stand-in-meter', kind: 'meter', name: 'stand-in multimeter', live: { volts: meter.value.volts }, stale: old.value, steady: meter.value.steady }],
    })),
  }),
}))
vi.mock('@/api/client', async (original) => ({
  ...(await original<object>()),
  client: {
    POST: (path: string, { body }: { body: Body }) => {
      posted.push({ path, body })
      if (refuse.value) return Promise.resolve({ error: { errors: [{ field: 'lead', message: refuse.value }] }, response: { status: 409 } })
      if (path.endsWith('/leads')) leads.value = [...leads.value, { lead: body.lead!, volts: body.volts! }]
      if (path.endsWith('/joined')) joined.value = [...joined.value, body.tap!]
      return Promise.resolve({ data: { ...job.value, assessment: job.value.assessment, facts: job.value.facts }, response: { status: 201 } })
    },
  },
}))

const job = computed(() => {
  const tap = joined.value.length
  return {
    facts: { id: 7, last_id: posted.length, intake: { pack: { series: 2 } } },
    assessment: { joining: { leads: leads.value, stop: null, pins: [], done: tap === 3, next: leads.value.length === 3 && tap < 3 ? { tap, lead: order[tap], expected_v: tap * 3.9 } : null } },
  }
}) as never as Parameters<typeof useLeadRun>[0]

const noted = () => posted.filter((p) => !p.path.endsWith('/probes')).map(({ body: { corrects, reason, ...body } }) => ({ ...body, ...(corrects ? { corrects } : {}), ...(reason ? { reason } : {}) }))
const probes = () => posted.filter((p) => p.path.endsWith('/probes')).at(-1)?.body

/** The stand-in meter settles on a value, as another touch. */
async function settles(volts: number) {
  meter.value = { volts, steady: { share: 1, volts, touch: meter.value.steady.touch + 1 } }
  await vi.waitFor(() => nextTick())
  await new Promise((done) => setTimeout(done))
}

let scope = effectScope()
const started = () => scope.run(() => useLeadRun(job))!
afterEach(() => scope.stop())

beforeEach(() => {
  scope = effectScope()
  posted.length = 0
  loose.value = []
  leads.value = []
  joined.value = []
  refuse.value = null
  old.value = false
  meter.value = { volts: null, steady: { share: 0, volts: null, touch: 0 } }
  queryClient.clear()
})

describe('a run of loose leads', () => {
  it('notes the first as the reference, then each with its volts, and asks again where they lack', async () => {
    const run = started()
    expect(run.title.value).toBe('Which lead is the reference?')
    run.text.value = 'grey'
    await run.accept()
    run.text.value = 'brown 3,9'
    await run.accept()
    expect(noted()).toEqual([{ lead: 'grey', volts: 0 }, { lead: 'brown', volts: 3.9 }])
    expect(run.title.value).toBe('Lead 3 of 3')
  })

  it('lets a named lead take what the meter shows, and keeps the name where that is refused', async () => {
    leads.value = [{ lead: 'grey', volts: 0 }]
    const run = started()
    run.text.value = 'brown'
    await run.accept()
    expect(run.said.value).toContain('“brown” has no volts')
    meter.value = { ...meter.value, volts: 3.88 }
    refuse.value = 'lead brown is joined already'
    await run.accept()
    expect(noted()).toEqual([{ lead: 'brown', volts: 3.88 }])
    expect(run.text.value).toBe('brown')
    expect(run.refusal.value?.message).toContain('joined already')
  })

  it('measures and joins a whole bundle on the stand-in meter', async () => {
    loose.value = ['brown', 'grey', 'red']
    const run = started()
    run.text.value = 'grey'
    await run.accept()
    // The simulated hand takes the next one up: black on the reference, red on it.
    expect(run.text.value).toBe('brown')
    await nextTick()
    expect(probes()).toMatchObject({ at: 'leads', black_lead: 'grey', red_lead: 'brown' })
    await settles(3.9)
    expect(run.text.value).toBe('red')
    await settles(7.8)
    expect(run.title.value).toBe('Join grey to pin 0')
    await settles(7.7)
    expect(joined.value).toEqual([])
    await run.accept()
    expect(noted().at(-1)).toMatchObject({ tap: 0, volts: 0 })
    await nextTick()
    expect(probes()).toMatchObject({ at: 'taps', black: 0, red: 1 })
    await settles(3.9)
    await settles(7.8)
    expect(noted().slice(1)).toMatchObject([{ lead: 'brown', volts: 3.9 }, { lead: 'red', volts: 7.8 }, { tap: 0 }, { tap: 1, volts: 3.9 }, { tap: 2, volts: 7.8 }])
    expect(run.title.value).toBe('Every lead is on its pin')
  })

  it('takes no value for a lead that was picked before the one in the hand had settled', async () => {
    loose.value = ['brown', 'red']
    leads.value = [{ lead: 'grey', volts: 0 }]
    const run = started()
    run.text.value = 'brown'
    await nextTick()
    // Picked on before it was taken: what the meter still shows is brown's.
    meter.value = { volts: 3.9, steady: { share: 0.5, volts: null, touch: 0 } }
    run.text.value = 'red'
    meter.value = { volts: 3.9, steady: { share: 1, volts: 3.9, touch: 1 } }
    await nextTick()
    await new Promise((done) => setTimeout(done, 400))
    expect(noted()).toEqual([])
    await settles(7.8)
    expect(noted()).toEqual([{ lead: 'red', volts: 7.8 }])
  })

  it('goes on with a value that settled while the one before was being kept', async () => {
    loose.value = ['brown', 'red']
    leads.value = [{ lead: 'grey', volts: 0 }]
    const run = started()
    run.text.value = 'brown'
    await nextTick()
    run.busy.value = true
    await settles(3.9)
    expect(noted()).toEqual([])
    run.busy.value = false
    await vi.waitFor(() => expect(noted()).toEqual([{ lead: 'brown', volts: 3.9 }]), 2000)
  })

  it('never captures what a meter showed that no longer answers', async () => {
    leads.value = [{ lead: 'grey', volts: 0 }]
    const run = started()
    old.value = true
    meter.value = { ...meter.value, volts: 3.88 }
    run.text.value = 'brown'
    await run.accept()
    expect(noted()).toEqual([])
    expect(run.said.value).toContain('no volts')
  })

  it('takes a lead typed again for a correction, two values for one that wanders, and 780 for 7.80', async () => {
    leads.value = [{ lead: 'grey', volts: 0 }, { lead: 'brown', volts: 8.3 }]
    const run = started()
    for (const line of ['brown 3.9', 'brown 3.9 2.1', 'red 780']) {
      run.measuring.value = true
      run.text.value = line
      await run.accept()
    }
    expect(noted()).toEqual([
      { lead: 'brown', volts: 3.9, corrects: true },
      { lead: 'brown', volts: 3.9 },
      { lead: 'brown', volts: 2.1 },
      { lead: 'red', volts: 7.8 },
    ])
  })
})
