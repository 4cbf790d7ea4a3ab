import { describe, expect, it } from 'vitest'
import { following } from '@/forms/following'

describe('a form that another window, or its own answer, overtakes', () => {
  const shown = { name: 'bench', place: '', has: ['fuse'], only: 1 }

  it('takes what it did not touch, and keeps what is typed in it', () => {
    const mine = { ...shown, place: 'here', has: ['fuse', 'board'] }
    expect(following({ name: 'other', place: 'there', has: ['fuse'], only: 2 }, shown, mine)).toEqual({ name: 'other', place: 'here', has: ['fuse', 'board'], only: 2 })
  })

  it('is filled where nothing was shown yet', () => expect(following<object>(shown, {}, {})).toEqual(shown))

  it('after it was sent shows what was recorded of it, but what was typed since', () => {
    const sent = { ...shown, name: ' two ', place: 'here' }
    expect(following({ ...sent, name: 'two' }, sent, { ...sent, place: 'here and there' })).toEqual({ ...sent, name: 'two', place: 'here and there' })
  })
})
