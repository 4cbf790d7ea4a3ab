import { describe, expect, it } from 'vitest'
import { parseLead } from '@/stages/leads/parseLead'

describe('a lead as typed', () => {
  it.each([
    ['black', [], { lead: 'black', volts: 0 }],
    ['red 11,62', ['black'], { lead: 'red', volts: 11.62 }],
    ['pin 3 blue -3.9', ['black'], { lead: 'pin 3 blue', volts: -3.9 }],
    ['11.64', ['black', '1'], { lead: '2', volts: 11.64 }],
    ['yellow', ['black'], null],
    ['  ', ['black'], null],
    ['tape 3', [], { lead: 'tape 3', volts: 0 }],
  ])('%s after %j', (line, known, expected) => expect(parseLead(line, known)).toEqual(expected))
})
