import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { nextTick, ref } from 'vue'
import StackFigure from '@/figures/StackFigure.vue'

vi.mock('@vueuse/core', async (original) => ({ ...(await original<object>()), useElementSize: () => ({ width: ref(380), height: ref(640) }) }))

const window = {
  key: 'nmc', name: 'lithium-ion, NMC', family: 'lithium', full_v: 4.2, nominal_v: 3.65, tool_end_v: 3, hard_end_v: 2.5,
  storage_v: 3.8, rest_floor_v: 1.5, precharge_below_v: 3, charge_normally_from_v: 2.5,
  resistance_ohm_ah: { low: 0.04, usual: 0.08, high: 0.2 }, curve_sigma_v: 0.01, curves: [],
} as const

type State = 'level' | 'low' | 'under_floor' | 'unread'

function assessed(groups: { volts: number | null; state: State }[]) {
  const plumb = 4.1
  const taps: (number | null)[] = [0]
  for (const g of groups) {
    const below = taps.at(-1)
    taps.push(g.volts === null || below === null || below === undefined ? null : below + g.volts)
  }
  return {
    set: { id: 1, purpose: 'probe', opened_at: '', rest_since: null, last_current_a: 0, meter: { percent: 0.5, digits: 2, resolution_v: 0.01 } },
    reading_ids: [1],
    readings: [{ kind: 'tap', tap: 1, volts: 4.1 }],
    reconciled: {
      groups: groups.map((g, i) => ({ group: i + 1, volts: g.volts, sigma_v: 0.01, determined: g.volts !== null, from_readings: [0] })),
      taps_v: taps, sums: [], residuals_v: [], findings: [], next_reading: null, sum_check: null,
    },
    verdict: {
      kind: 'sound', headline: '', reasons: [], charger: null, tool: null, cost: null, next_reading: null, settles: null,
      plumb_v: plumb, balance: null,
      groups: groups.map((g, i) => ({ group: i + 1, volts: g.volts, sigma_v: 0.01, off_plumb_v: g.volts === null ? null : g.volts - plumb, state: g.state })),
    },
    runs: {},
  }
}

function figure(groups: { volts: number | null; state: State }[], extra: object = {}) {
  return mount(StackFigure, { props: { series: groups.length, window, digits: 2, assessed: assessed(groups), pickable: true, ...extra } as never })
}

const three = [{ volts: 4.1, state: 'level' }, { volts: 3.42, state: 'low' }, { volts: null, state: 'unread' }] as const

describe('the stack figure', () => {
  it('hangs negative at the bottom and says each state in a shape and a word', () => {
    const f = figure([...three])
    const y = (k: number) => Number(f.findAll('.row')[k]!.find('.number').attributes('y'))
    expect(y(0)).toBeGreaterThan(y(2))
    expect(f.find('.row.low .word').text()).toBe('low')
    expect(f.find('.row.low path.solid').exists()).toBe(true)
    expect(f.find('.row.unread .hook').exists()).toBe(true)
    expect(f.find('.row.level rect.frame').exists()).toBe(true)
    expect(f.find('.row.low .off').text()).toBe('−680')
  })

  it('puts a lower voltage further left on one axis', () => {
    const f = figure([...three])
    const at = (state: string) => Number(/-?[\d.]+/.exec(f.find(`.row.${state} .shape`).attributes('style')!)![0])
    expect(at('low')).toBeLessThan(at('level'))
  })

  it('tells on focus from which readings a group was obtained', async () => {
    const f = figure([...three])
    await f.find('.row.low .touch').trigger('focus')
    expect(f.find('.story').text()).toContain('Group 2, 3.42')
    expect(f.find('.story').text()).toContain('tap 1 4.10')
    await f.find('.row.unread .touch').trigger('focus')
    expect(f.find('.story').text()).toContain('no reading settles it yet')
  })

  it('lets a tap or a row be picked by click and by key, and nothing while it is only to be looked at', async () => {
    const f = figure([...three])
    await f.findAll('.nail')[2]!.trigger('click')
    await f.find('.row.low .touch').trigger('keydown.enter')
    expect(f.emitted('pick')).toEqual([[{ kind: 'tap', tap: 2 }], [{ kind: 'group', group: 2 }]])
    const still = figure([...three], { pickable: false })
    await still.findAll('.nail')[2]!.trigger('click')
    await still.find('.row.low').trigger('click')
    expect(still.emitted('pick')).toBeUndefined()
  })

  it('lights the tap that is being read and hatches the floor once a group is near it', async () => {
    const f = figure([...three], { lit: { kind: 'tap', tap: 3 } })
    expect(f.find('.nail.lit').text()).toBe('tap 3')
    expect(f.find('.floor').exists()).toBe(false)
    const low = figure([{ volts: 4.1, state: 'level' }, { volts: 0.6, state: 'under_floor' }])
    await nextTick()
    expect(low.find('.floor').exists()).toBe(true)
    expect(low.find('.row.under_floor .word').text()).toBe('under the floor')
  })
})
