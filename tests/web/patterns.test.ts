import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import ChangeLines from '@/patterns/ChangeLines.vue'
import { keyOf, pinLine, pinOf } from '@/patterns/sections'
import { emptyDraft, fromSheet, labelFigures } from '@/stages/take-in/draft'

describe('a pin as it is typed', () => {
  it.each([
    ['1 black 0', { pin: 1, wire: 'black', tap: 0, sensor: '', volts: null }],
    ['2, red, tap 1', { pin: 2, wire: 'red', tap: 1, sensor: '', volts: null }],
    ['3 red 2 7,4 V', { pin: 3, wire: 'red', tap: 2, sensor: '', volts: 7.4 }],
    ['6 white sensor 1', { pin: 6, wire: 'white', tap: null, sensor: 'sensor 1', volts: null }],
    ['7 grey and thin', { pin: 7, wire: 'grey and thin', tap: null, sensor: '', volts: null }],
  ])('%s', (line, pin) => {
    expect(pinOf(line)).toEqual(pin)
    // Shown again and read again it is the same.
    expect(pinOf(pinLine(pin))).toEqual(pin)
  })
  it('that begins with no number is none', () => expect(pinOf('black 0')).toBeNull())
})

it('a line goes by the fields that tell it from the others, as the API names it', () => {
  const code = { source: 'told', origin: '', confirmed: 0, contradicted: 0, by: 'lamp', shows: 'Three short', revision: 'B', means: 'cell', says: '' } as const
  expect(keyOf('codes', code)).toBe('lamp/three short/b')
  expect(keyOf('normals', { source: 'told', origin: '', confirmed: 0, contradicted: 0, reads: 'cut_off_v', value: 14, low: null, high: null, at_c: null })).toBe('cut_off_v/')
  expect(keyOf('normals', { source: 'told', origin: '', confirmed: 0, contradicted: 0, reads: 'sensor_ohm', value: 1e4, low: null, high: null, at_c: 22 })).toBe('sensor_ohm/22')
})

it('volts and ampere-hours are read off a label in any usual writing', () => {
  expect(labelFigures('18 V 4 Ah')).toEqual({ volts: 18, ah: 4 })
  expect(labelFigures('14,4V / 2600 mAh')).toEqual({ volts: 14.4, ah: 2.6 })
  expect(labelFigures('5S2P')).toEqual({})
})

it('a pattern fills what it knows and leaves whose pack it is', () => {
  const sheet = { title: 'Pump', pack: { chemistry: 'nmc', series: 8, parallel: 1, strings: 2, rated_ah: 2.5, load_a: 5 }, kind: 'garden', outside_taps: [0, 4], has_board: true, has_balance_wires: null, has_sensor: false, board_levels: null } as never
  const draft = { ...emptyDraft(), customer: 'Press house', serial: 'P-7', symptoms: ['dead' as const], pack_name: 'pu' }
  const filled = { ...draft, ...fromSheet(sheet, draft) }
  expect(filled).toMatchObject({ customer: 'Press house', serial: 'P-7', symptoms: ['dead'], pack_name: 'Pump', series: '4', strings: '2', rated_ah: '5', load_a: '5', outside_taps: '0, 4', has: { has_board: true, has_balance_wires: null, has_sensor: false } })
  expect(fromSheet(sheet, { ...draft, pack_name: 'Pump of the cellar' }).pack_name).toBe('Pump of the cellar')
})

it('lines are taken and left one by one', async () => {
  const line = (name: string, ours: unknown) => ({ line: name, section: 'tags', what: 'changed' as const, says: name, ours, theirs: 'x' })
  const lines = mount(ChangeLines, { props: { modelValue: ['a'], lines: [line('a', null), line('b', 'y')], label: 'lines' } })
  expect(lines.findAll('.what').map((w) => w.text())).toEqual(['new', 'changed'])
  await lines.findAll('button')[1]!.trigger('click')
  await lines.findAll('button')[0]!.trigger('click')
  expect(lines.emitted('update:modelValue')).toEqual([[['a', 'b']], [['b']]])
})
