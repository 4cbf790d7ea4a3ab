import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { type JobView, keepJob, queryClient } from '@/api/queries'
import { useChanges } from '@/composables/useChanges'

class FakeSocket {
  static all: FakeSocket[] = []
  onopen: (() => void) | null = null
  onmessage: ((event: { data: string }) => void) | null = null
  onclose: (() => void) | null = null
  constructor() {
    FakeSocket.all.push(this)
  }

  close() {
    this.onclose?.()
  }

  tell(changes: object) {
    this.onmessage?.({ data: JSON.stringify(changes) })
  }
}

const view = (id: number, last_id: number) => ({ facts: { id, last_id }, assessment: {} }) as unknown as JobView
const stale = (...key: unknown[]) => queryClient.getQueryState(key)?.isInvalidated

describe('what changed elsewhere', () => {
  let scope = effectScope()
  beforeEach(() => {
    vi.useFakeTimers()
    vi.stubGlobal('WebSocket', FakeSocket)
    FakeSocket.all = []
    queryClient.clear()
    queryClient.setQueryData(['waiting'], [])
    keepJob(view(4, 17))
    keepJob(view(5, 9))
    scope = effectScope()
    scope.run(() => useChanges())
  })
  afterEach(() => {
    scope.stop()
    vi.useRealTimers()
    vi.unstubAllGlobals()
  })

  it('fetches again only the job that has a fact this window lacks, and the lists', () => {
    FakeSocket.all[0]!.tell({ jobs: { 4: 18, 5: 9 }, shop: [] })
    expect([stale('job', 4), stale('job', 5), stale('waiting')]).toEqual([true, false, true])
  })

  it('fetches of the shop what shows what changed, and everything where that may show anywhere', () => {
    queryClient.setQueryData(['meter'], {})
    queryClient.setQueryData(['judgement', 4, 17], {})
    FakeSocket.all[0]!.tell({ jobs: {}, shop: ['meter'] })
    expect([stale('meter'), stale('judgement', 4, 17), stale('job', 4), stale('waiting')]).toEqual([true, false, false, false])
    FakeSocket.all[0]!.tell({ jobs: {}, shop: ['policy'] })
    expect([stale('judgement', 4, 17), stale('job', 4)]).toEqual([true, true])
  })

  it('lets no late answer put back what a newer one showed', () => {
    keepJob(view(4, 12))
    expect(queryClient.getQueryData<JobView>(['job', 4])!.facts.last_id).toBe(17)
  })

  it('comes back after a break, and trusts nothing it held meanwhile', () => {
    FakeSocket.all[0]!.onopen?.()
    FakeSocket.all[0]!.close()
    expect(stale('job', 5)).toBe(true)
    vi.advanceTimersByTime(1000)
    expect(FakeSocket.all).toHaveLength(2)
  })

  it('drops a line on which nothing is heard for a minute', () => {
    FakeSocket.all[0]!.onopen?.()
    vi.advanceTimersByTime(59_000)
    FakeSocket.all[0]!.tell({ jobs: {}, shop: [] })
    vi.advanceTimersByTime(59_000)
    expect(FakeSocket.all).toHaveLength(1)
    vi.advanceTimersByTime(2_000)
    expect(FakeSocket.all).toHaveLength(2)
  })
})
