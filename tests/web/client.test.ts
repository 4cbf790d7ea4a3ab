import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

const sent: { url: string; body: string }[] = []
const doubt = { errors: [{ field: 'pack.rated_ah', message: '5000 Ah is 5000 Ah a cell; is it meant?' }], asked: true }

/** The client as the page makes it, before a server that doubts whatever it is not told to be sure of. */
async function fresh(answer: (url: string) => Response) {
  vi.resetModules()
  vi.stubGlobal('fetch', async (request: Request) => {
    sent.push({ url: new URL(request.url).pathname + new URL(request.url).search, body: await request.clone().text() })
    return answer(request.url)
  })
  const { client, settled, Refusal } = await import('@/api/client')
  const wait = () => new Promise((done) => setTimeout(done, 400))
  const note = (text: string) => settled(client.POST('/api/jobs/{job_id}/notes', { baseUrl: 'http://127.0.0.1', params: { path: { job_id: 1 } }, body: { evidence: [], text } })).catch((e: unknown) => e as InstanceType<typeof Refusal>)
  return { note, wait }
}
const doubting = (url: string) => (url.includes('sure=true') ? Response.json({ kept: true }, { status: 201 }) : Response.json(doubt, { status: 409 }))

describe('what hardly can be meant', () => {
  beforeEach(() => void (sent.length = 0))
  afterEach(() => vi.unstubAllGlobals())

  it('is asked about, and kept when the same is sent once more', async () => {
    const { note, wait } = await fresh(doubting)
    expect(String(((await note('a')) as Error).message)).toContain('is it meant? Once more keeps it')
    await wait()
    expect(await note('a')).toEqual({ kept: true })
    expect(sent.map((s) => s.url)).toEqual(['/api/jobs/1/notes', '/api/jobs/1/notes?sure=true'])
    expect(sent[1]!.body).toBe(sent[0]!.body)
  })

  it('is not kept by a key that bounced, nor where something else is sent', async () => {
    const { note, wait } = await fresh(doubting)
    await note('a')
    await note('a')
    await wait()
    await note('b')
    expect(sent.some((s) => s.url.includes('sure'))).toBe(false)
  })

  it('is asked about anew once it was kept', async () => {
    const { note, wait } = await fresh(doubting)
    await note('a')
    await wait()
    await note('a')
    await wait()
    await note('a')
    expect(sent.map((s) => s.url.includes('sure'))).toEqual([false, true, false])
  })

  it('leaves a plain refusal as it is', async () => {
    const { note, wait } = await fresh(() => Response.json({ errors: [{ field: 'signed', message: 'this job is closed' }], asked: false }, { status: 409 }))
    expect(((await note('a')) as Error).message).toBe('this job is closed')
    await wait()
    await note('a')
    expect(sent.some((s) => s.url.includes('sure'))).toBe(false)
  })
})
