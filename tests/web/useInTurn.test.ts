import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { computed, defineComponent, h, shallowRef } from 'vue'
import { client } from '@/api/client'
import { provideJob } from '@/composables/useJob'
import { type Block, useKeepBlock } from '@/stages/join/useBlock'

// Two forms of one page over one block, as the server last gave it; each answer comes when it is let go.
let sent: Record<string, unknown>[] = []
let seen: number[] = []
let answers: ((refused?: boolean) => Promise<void>)[] = []
const turn = () => new Promise((done) => setTimeout(done))
let number = 700

function page() {
  const job = shallowRef({ facts: { id: ++number, last_id: 1 } })
  const block = shallowRef({ entered: { diameter_mm: 18, columns: 2, method: { by: 'weld', tabs: 'steel' } } } as unknown as Block)
  const forms: ReturnType<typeof useKeepBlock>[] = []
  const Form = defineComponent({ setup: () => (forms.push(useKeepBlock(block)), () => null) })
  mount(defineComponent({ setup: () => (provideJob(computed(() => job.value) as never), () => [h(Form), h(Form)]) }))
  return { block, one: forms[0]!, other: forms[1]! }
}
beforeEach(() => {
  sent = []
  seen = []
  answers = []
  vi.spyOn(client, 'POST').mockImplementation(((_: string, { body, params }: { body: Record<string, unknown>; params: { query: { seen: number } } }) => {
    sent.push(body)
    seen.push(params.query.seen)
    return new Promise((done) => answers.push(async (refused = false) => {
      done(refused ? { error: { errors: [{ field: 'diameter_mm', code: 'x', message: 'no' }] }, response: new Response(null, { status: 422 }) } : { data: { facts: { id: number, last_id: 2 } }, response: new Response() })
      await turn()
    }))
  }) as never)
})
afterEach(() => vi.restoreAllMocks())

it('keeps what one form was told while another form is being kept, and loses neither', async () => {
  const { one, other } = page()
  void one.keep({ diameter_mm: 30 })
  void other.keep((entered) => ({ method: { ...entered.method!, by: 'solder' } }))
  void other.keep((entered) => ({ method: { ...entered.method!, tabs: 'plated' } }))
  expect(other.busy.value).toBe(true)
  await turn()
  expect(sent).toHaveLength(1)
  for (let k = 0; k < 3; k++) await answers[k]!()
  expect(sent.at(-1)).toEqual({ diameter_mm: 30, columns: 2, method: { by: 'solder', tabs: 'plated' } })
  expect([one.busy.value, other.busy.value]).toEqual([false, false])
  // The page may not show yet what was kept: what is kept next is no change made in ignorance of it.
  expect(seen).toEqual([1, 2, 2])
})

it('goes on from what was kept until the block that follows from it is shown', async () => {
  const { block, one, other } = page()
  void one.keep({ diameter_mm: 30 })
  await turn()
  await answers[0]!()
  void other.keep({ columns: 3 })
  await turn()
  expect(sent[1]).toMatchObject({ diameter_mm: 30, columns: 3 })
  await answers[1]!()
  // Another window changed it meanwhile: what the server shows holds.
  block.value = { entered: { diameter_mm: 21, columns: 5 } } as unknown as Block
  void one.keep({ columns: 4 })
  await turn()
  expect(sent[2]).toEqual({ diameter_mm: 21, columns: 4 })
})

it('goes on from what held before where a change is refused', async () => {
  const { one, other } = page()
  const first = one.keep({ diameter_mm: -3 })
  void other.keep({ columns: 3 })
  await turn()
  await answers[0]!(true)
  expect([await first, one.refusal.value?.message]).toEqual([null, expect.stringContaining('no')])
  expect(sent[1]).toMatchObject({ diameter_mm: 18, columns: 3 })
})
