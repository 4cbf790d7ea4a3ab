import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import PhotoFigure from '@/figures/PhotoFigure.vue'
import { placeName } from '@/figures/places'
import { touched } from '@/stages/probe/usePhotos'

const photo = { id: 3, at: '', sha256: '', width: 1600, height: 1000, caption: 'Opened' }
const pins = [
  { place: { kind: 'tap', tap: 0 }, x: 0.1, y: 0.2 },
  { place: { kind: 'tap', tap: 4 }, x: 0.9, y: 0.5 },
  { place: { kind: 'node', node: 'after the fuse' }, x: 0.4, y: 0.8 },
]
const shown = (more: object) => mount(PhotoFigure, { props: { src: '/x.jpg', photo, pins, lit: [], placing: null, ...more } as never })

describe('a photo with pins', () => {
  it('lights the taps that a point touches and no others', () => {
    expect(touched({ kind: 'tap', tap: 4 }, 5)).toEqual(['tap 0', 'tap 4'])
    expect(touched({ kind: 'group', group: 4 }, 5)).toEqual(['tap 3', 'tap 4'])
    expect(touched({ kind: 'span', from_tap: 1, to_tap: 3 }, 5)).toEqual(['tap 1', 'tap 3'])
    expect(touched({ kind: 'pack' }, 5)).toEqual(['tap 0', 'tap 5'])
    expect(touched(null, 5)).toEqual([])
    const f = shown({ lit: ['tap 4', 'tap 9'] })
    expect(f.findAll('.pin.lit').map((p) => p.text())).toEqual(['4'])
  })

  it('gives a pin that is clicked, and where it stands', async () => {
    const f = shown({})
    const [low, high] = f.findAll('.pin')
    expect(low!.attributes('style')).toContain('left: 10.00%; top: 20.00%')
    expect(high!.attributes('aria-label')).toBe('read tap 4')
    await high!.trigger('click')
    expect(f.emitted('pick')).toEqual([[pins[1]!.place]])
    expect(f.emitted('put')).toBeUndefined()
  })

  it('puts a pin where it is clicked, as a share of the picture, and only while placing', async () => {
    const f = shown({ placing: 'tap 1' })
    const plate = f.get('.plate')
    plate.element.getBoundingClientRect = () => ({ left: 100, top: 50, width: 400, height: 250 }) as DOMRect
    await plate.trigger('click', { clientX: 200, clientY: 300 })
    expect(f.emitted('put')).toEqual([[0.25, 1]])
    expect(f.findAll('.pin')[0]!.attributes('aria-label')).toContain('take this pin off')
    await f.setProps({ placing: null })
    await plate.trigger('click', { clientX: 200, clientY: 100 })
    expect(f.emitted('put')).toHaveLength(1)
  })

  it('puts a pin by arrow keys and Enter, fine with Shift, and never off the picture', async () => {
    const f = shown({ placing: 'tap 1' })
    const plate = f.get('.plate')
    await plate.trigger('keydown', { key: 'ArrowRight' })
    await plate.trigger('keydown', { key: 'ArrowUp', shiftKey: true })
    expect(f.get('.cross').attributes('style')).toContain('left: 52.00%; top: 49.80%')
    await plate.trigger('keydown', { key: 'Enter' })
    const [x, y] = f.emitted('put')![0] as [number, number]
    expect(x).toBeCloseTo(0.52, 6)
    expect(y).toBeCloseTo(0.498, 6)
    for (let n = 0; n < 60; n++) await plate.trigger('keydown', { key: 'ArrowLeft' })
    await plate.trigger('keydown', { key: 'Enter' })
    expect(f.emitted('put')![1]![0]).toBe(0)
    await plate.trigger('keydown', { key: 'x' })
    expect(f.emitted('put')).toHaveLength(2)
  })

  it('names places as the run and the path do', () => {
    expect(placeName({ kind: 'tap', tap: 2 })).toBe('tap 2')
    expect(placeName({ kind: 'node', node: 'at the terminal' })).toBe('at the terminal')
    expect(placeName({ kind: 'sensor', sensor: 'sensor 1' })).toBe('sensor 1')
  })
})
