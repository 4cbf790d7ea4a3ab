import { expect, it } from 'vitest'
import { Dropouts } from '@/stages/measures/dropouts'

it('counts each time a value leaves where it rests, once, with its moment', () => {
  const watch = new Dropouts(100)
  const seen: [number, number | null][] = [[100, 13_040], [101, 13_030], [102, null], [103, null], [104, 13_050], [105, 9000], [106, 13_040]]
  expect(seen.map(([at, value]) => watch.see(at, value))).toEqual([false, false, true, false, false, true, false])
  expect(watch.at).toEqual([2, 5])
  expect(watch.rests).toBe(13_040)
})

it('takes no noise of a dead contact for a drop-out', () => {
  const watch = new Dropouts(0)
  for (let n = 0; n < 20; n++) watch.see(n, 0.003 * (n % 2))
  expect(watch.at).toEqual([])
})
