import { describe, expect, it } from 'vitest'
import { textOf } from '../../web/src/logs/textOf'

const file = (...bytes: number[]) => new Blob([new Uint8Array(bytes)])

describe('a file as text', () => {
  it('is read in UTF-8, with and without its mark, in UTF-16, and in older letters', async () => {
    expect(await textOf(file(0x32, 0x32, 0x20, 0xc2, 0xb0, 0x43))).toBe('22 °C')
    expect(await textOf(file(0xef, 0xbb, 0xbf, 0x61))).toBe('a')
    expect(await textOf(file(0xff, 0xfe, 0x61, 0x00, 0xb0, 0x00))).toBe('a°')
    expect(await textOf(file(0xfe, 0xff, 0x00, 0x61))).toBe('a')
    expect(await textOf(file(0x32, 0x32, 0x20, 0xb0, 0x43))).toBe('22 °C')
  })
})
