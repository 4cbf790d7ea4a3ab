import { type Directive, shallowRef } from 'vue'
import type { Schemas } from '@/api/client'
import { clock, volts } from './format'
import { pointShort } from './points'

type Fact = Schemas['ReadingFact']

/** What a number came from: groups of a set (or every reading of it), readings by their index in it, or words. */
export interface From {
  what: string
  set?: Schemas['Assessed'] | null
  groups?: number[] | 'all'
  readings?: number[]
  words?: string
  /** What else it came from, put after the readings. */
  beside?: string
}

/** What the number under the hand or the focus came from; the pack pane tells it. */
export const origin = shallowRef<From | null>(null)

const from = new WeakMap<Element, From>()

/** `v-from`: the number can be focused, and then says in the pack pane which readings it came from. */
export const vFrom: Directive<HTMLElement | SVGElement, From> = {
  mounted(el, { value }) {
    from.set(el, value)
    el.setAttribute('tabindex', '0')
    el.classList.add('from')
    const tell = () => (origin.value = from.get(el) ?? null)
    const hush = () => (origin.value = null)
    el.addEventListener('focus', tell)
    el.addEventListener('blur', hush)
    el.addEventListener('mouseenter', tell)
    el.addEventListener('mouseleave', hush)
  },
  updated(el, { value }) {
    const old = from.get(el)
    from.set(el, value)
    if (origin.value && origin.value === old) origin.value = value
  },
  beforeUnmount(el) {
    if (origin.value === from.get(el)) origin.value = null
  },
}

const MOST_NAMED = 6

/** Readings in a sentence: each while they are few, else how many and from where to where; when, and with what. */
export function readingsTold(readings: Fact[], digits: number): string {
  if (!readings.length) return 'no reading settles it yet'
  const named = readings.map((r) => `${pointShort(r.point)} ${volts(r.volts, digits)}`)
  const shown = named.length <= MOST_NAMED ? named.join(', ') : `${named.length} readings, ${named[0]} to ${named.at(-1)}`
  const times = [...new Set([readings[0]!, readings.at(-1)!].map((r) => clock(r.at)))]
  const sources = [...new Set(readings.map((r) => r.source ?? 'typed'))]
  return `${shown} V; ${times.join(' to ')}, ${sources.join(' and ')}`
}

/** What a number came from, in a sentence. `facts` are the job's readings. */
export function told(of: From, facts: Fact[], digits: number): string {
  if (of.words !== undefined || !of.set) return `${of.what}: ${of.words ?? 'nothing is read yet'}.`
  const set = of.set
  const indices = of.readings ?? (of.groups === 'all' || !of.groups ? set.reading_ids.map((_, i) => i) : [...new Set(of.groups.flatMap((k) => set.reconciled.groups[k - 1]?.from_readings ?? []))])
  const ids = new Set(indices.map((i) => set.reading_ids[i]))
  return `${of.what}: from ${readingsTold(facts.filter((r) => ids.has(r.id)), digits)}${of.beside ?? ''}.`
}
