import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, nextTick, ref } from 'vue'
import { queryClient } from '@/api/queries'
import { useProbeRun } from '@/stages/probe/useProbeRun'

const posted: { point: unknown; volts: number | null; supersedes: number | null }[] = []
let refuse: string | null = null

vi.mock('@/composables/useVoice', () => ({ say: () => {}, tone: () => {} }))
vi.mock('@/api/client', async (original) => ({
  ...(await original<object>()),
  client: {
    POST: (_path: string, { body }: { body: (typeof posted)[0] }) => {
      posted.push(body)
      if (refuse) return Promise.resolve({ error: { errors: [{ field: 'volts', message: refuse }] }, response: { status: 422 } })
      store(body)
      return Promise.resolve({ data: job.value, response: { status: 201 } })
    },
  },
}))

type Stored = { id: number; k: number; volts: number | null }
const stored = ref<Stored[]>([])

function store(body: { point: unknown; volts: number | null }) {
  const k = (body.point as { tap?: number }).tap ?? 4
  stored.value = [...stored.value, { id: stored.value.length + 1, k, volts: body.volts }]
}

function points() {
  return [1, 2, 3, 4].map((k) => {
    const last = stored.value.filter((s) => s.k === k).at(-1)
    return {
      point: k < 4 ? { kind: 'tap', tap: k } : { kind: 'pack' },
      words: k < 4 ? `tap ${k} against tap 0` : 'pack terminals',
      expected_low_v: 4 * Math.min(k, 3), expected_high_v: 4.2 * Math.min(k, 3),
      plausible_low_v: -0.5, plausible_high_v: 4.35 * Math.min(k, 3),
      reading_id: last?.id ?? null, volts: last?.volts ?? null, unreachable: false, struck: [],
    }
  })
}

const job = computed(() => ({
  facts: { id: 1 },
  assessment: { probe: { readings: [], runs: { taps: points(), groups: points() } }, prove: null, blank_runs: {} },
})) as never as Parameters<typeof useProbeRun>[0]

beforeEach(() => {
  posted.length = 0
  stored.value = []
  refuse = null
  queryClient.clear()
})

async function type(run: ReturnType<typeof useProbeRun>, text: string) {
  run.text.value = text
  await run.accept()
  await nextTick()
}

describe('a probe run', () => {
  it('takes one number a point and goes on to the next', async () => {
    const run = useProbeRun(job, 'probe')
    expect(run.current.value?.words).toBe('tap 1 against tap 0')
    await type(run, '411')
    expect(posted[0]).toMatchObject({ point: { kind: 'tap', tap: 1 }, volts: 4.11, supersedes: null })
    expect(run.current.value?.words).toBe('tap 2 against tap 0')
    expect(run.text.value).toBe('')
  })

  it('takes what is typed while the last number is still being stored', async () => {
    const run = useProbeRun(job, 'probe')
    run.text.value = '4.11'
    const first = run.accept()
    run.text.value = '8.2'
    await first
    expect(run.text.value).toBe('8.2')
    const [second, third] = [type(run, '8.22'), type(run, '12.3')]
    await Promise.all([second, third])
    expect(posted.map((p) => [(p.point as { tap: number }).tap, p.volts])).toEqual([[1, 4.11], [2, 8.22], [3, 12.3]])
    expect(run.text.value).toBe('')
  })

  it('leaves a skipped point open and comes back to it at the end', async () => {
    const run = useProbeRun(job, 'probe')
    run.skip()
    expect(run.current.value?.words).toBe('tap 2 against tap 0')
    await type(run, '8.22')
    await type(run, '12.3')
    await type(run, '12.31')
    expect(run.current.value?.words).toBe('tap 1 against tap 0')
    expect(posted.map((p) => (p.point as { tap?: number }).tap)).toEqual([2, 3, undefined])
  })

  it('fills several points from one line and keeps what is questioned', async () => {
    const run = useProbeRun(job, 'probe')
    await type(run, '4,11 8.22 30.5')
    expect(posted.map((p) => p.volts)).toEqual([4.11, 8.22])
    expect(run.questioned.value?.why).toContain('tap 3')
    expect(run.text.value).toBe('30.5')
    // A key that bounces confirms nothing; one that comes after the question is read does.
    await run.accept()
    expect(posted.at(-1)?.volts).toBe(8.22)
    await new Promise((read) => setTimeout(read, 400))
    await run.accept()
    expect(posted.at(-1)?.volts).toBe(30.5)
    expect(run.current.value?.words).toBe('pack terminals')
  })

  it('loses nothing when the program refuses', async () => {
    const run = useProbeRun(job, 'probe')
    refuse = 'must be at most 1000'
    await type(run, '4.1')
    expect(run.text.value).toBe('4.1')
    expect(run.refusal.value?.message).toBe('must be at most 1000')
    expect(run.current.value?.words).toBe('tap 1 against tap 0')
  })

  it('says what is no number and leaves it to be mended', async () => {
    const run = useProbeRun(job, 'probe')
    await type(run, '4.1 oops')
    expect(run.refusal.value?.message).toContain('“oops” is not a number')
    expect(run.text.value).toBe('oops')
  })

  it('steps back, and reads the last one again as a correction', async () => {
    const run = useProbeRun(job, 'probe')
    await type(run, '4.11 8.22')
    run.stepBack()
    expect(run.current.value?.words).toBe('tap 2 against tap 0')
    run.readAgain()
    await type(run, '8.21')
    expect(posted.at(-1)).toMatchObject({ volts: 8.21, supersedes: 2 })
    expect(run.current.value?.words).toBe('tap 3 against tap 0')
  })

  it('marks what cannot be reached and passes on', async () => {
    const run = useProbeRun(job, 'probe')
    await run.unreachable()
    expect(posted[0]?.volts).toBeNull()
    expect(run.current.value?.words).toBe('tap 2 against tap 0')
  })

  it('holds its point while something is typed, and joins what another window read meanwhile', async () => {
    const run = useProbeRun(job, 'probe')
    run.text.value = '4.1'
    store({ point: { kind: 'tap', tap: 1 }, volts: 4.12 })
    await nextTick()
    expect(run.current.value?.words).toBe('tap 1 against tap 0')
    await run.accept()
    expect(posted[0]).toMatchObject({ point: { kind: 'tap', tap: 1 }, supersedes: null })
    expect(run.current.value?.words).toBe('tap 2 against tap 0')
  })

  it('follows the other window while nothing is typed', async () => {
    const run = useProbeRun(job, 'probe')
    store({ point: { kind: 'tap', tap: 1 }, volts: 4.12 })
    await nextTick()
    expect(run.current.value?.words).toBe('tap 2 against tap 0')
  })

  it('says so when a number belongs to no point', async () => {
    const run = useProbeRun(job, 'probe')
    await type(run, '4.1 8.2 12.3 12.3 5')
    expect(posted).toHaveLength(4)
    expect(run.current.value).toBeNull()
    expect(run.refusal.value?.message).toContain('belongs to none')
    expect(run.text.value).toBe('5')
  })
})
