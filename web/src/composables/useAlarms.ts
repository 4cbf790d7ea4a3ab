import { useStorage } from '@vueuse/core'
import { computed, watch } from 'vue'
import { useWaitingQuery } from '@/api/queries'
import type { Schemas } from '@/api/client'
import { useNow } from './useNow'
import { announce, tone } from './useVoice'

export interface Alarm {
  id: string
  /** What rings: a look that is due, a finish that is near or here, a forecast that has passed, or something about a charge that should not wait. */
  what: 'look' | 'near' | 'done' | 'passed' | 'ring'
  at: number
  words: string
  job: number
  kind: Schemas['Waiting']['kind']
  /** What it costs if it is missed: the dearest rings first, and only what costs time may be put off. */
  cost: Cost
}

export type Cost = Schemas['Ringing']['cost']
const DEAREST: Cost[] = ['danger', 'cells', 'time']

const DONE: Record<Schemas['Waiting']['kind'], string> = { charge: 'should be done', rest: 'has rested', cure: 'has cured', cool: 'is cool', capacity: 'should be empty', self_discharge: 'is to be read' }
const key = (w: Schemas['Waiting']) => `${w.job_id} ${w.kind} ${w.charge_id ?? ''}`
const NEAR_MS = 5 * 60_000
const name = (w: Schemas['Waiting']) => (w.group ? `${w.pack_name}, group ${w.group}` : w.pack_name)

/** What is waited for, as alarms to come: those known before stand, later ones are added, and a finish moves as its forecast does. */
export function expected(known: Alarm[], waiting: Schemas['Waiting'][], now: number, ringing: Schemas['Ringing'][] = []): Alarm[] {
  const held = new Map(known.map((a) => [a.id, a]))
  const alive = new Set(waiting.map(key))
  for (const w of waiting) {
    const base = { job: w.job_id, kind: w.kind, cost: w.cost }
    const done: Alarm = { ...base, id: `${key(w)} done`, what: 'done', at: new Date(w.done).getTime(), words: `${name(w)} ${DONE[w.kind]}` }
    // Once it rang it stays where it rang.
    if ((held.get(done.id)?.at ?? Infinity) > now) held.set(done.id, done)
    const latest = new Date(w.done_high).getTime()
    if (w.kind === 'charge' && latest > done.at) {
      const id = `${key(w)} passed`
      if ((held.get(id)?.at ?? Infinity) > now) held.set(id, { ...base, id, what: 'passed', at: latest, words: `${name(w)} is past its forecast: look at it` })
    }
    const soon = done.at - NEAR_MS
    if (w.kind === 'charge' && soon > new Date(w.since).getTime() + 3 * NEAR_MS) {
      const id = `${key(w)} near`
      if ((held.get(id)?.at ?? Infinity) > now) held.set(id, { ...base, id, what: 'near', at: soon, words: `${name(w)} should be done in five minutes` })
    }
    if (!w.look_again) continue
    const at = new Date(w.look_again).getTime()
    // By the minute: what is reckoned anew each time differs by seconds.
    const id = `${key(w)} look ${Math.round(at / 60000)}`
    const near = [...held.values()].some((a) => a.what === 'look' && a.id.startsWith(`${key(w)} look`) && Math.abs(a.at - at) < 90000)
    if (!near) held.set(id, { ...base, id, what: 'look', at, words: `${name(w)}: look again` })
  }
  for (const r of ringing) {
    alive.add(`${r.job_id} charge ${r.charge_id}`)
    const id = `${r.job_id} charge ${r.charge_id} ${r.kind}`
    if (!held.has(id)) held.set(id, { id, job: r.job_id, kind: 'charge', cost: r.cost, what: 'ring', at: new Date(r.at).getTime(), words: `${r.pack_name}${r.group ? `, group ${r.group}` : ''}: ${r.says}` })
  }
  // What ended before it was due rings no more; what was due stays until it is seen. A charge that ended was seen.
  return [...held.values()].filter((a) => alive.has(a.id.split(' ').slice(0, 3).join(' ')) || (a.at <= now && a.kind !== 'charge'))
}

const FIRST = ['ring', 'passed', 'done', 'near', 'look']

/** What rings by now: what costs most if it is missed comes first, and of a thing that is done its looks ring no more. */
export function telling(alarms: Alarm[], now: number): Alarm[] {
  const of = (a: Alarm) => a.id.split(' ').slice(0, 3).join(' ')
  const due = alarms.filter((a) => a.at <= now)
  const passed = new Set(due.filter((a) => a.what === 'passed').map(of))
  const done = new Set(due.filter((a) => a.what === 'done' || a.what === 'passed').map(of))
  const near = new Set(due.filter((a) => a.what === 'near').map(of))
  return due
    .filter((a) => a.what === 'ring' || a.what === 'passed' || (a.what === 'done' && !passed.has(of(a))) || !(done.has(of(a)) || (a.what === 'look' && near.has(of(a)))))
    .sort((a, b) => DEAREST.indexOf(a.cost) - DEAREST.indexOf(b.cost) || FIRST.indexOf(a.what) - FIRST.indexOf(b.what) || b.at - a.at)
}

const alarms = useStorage<Alarm[]>('saldatura.alarms', [])
const seen = useStorage<string[]>('saldatura.alarms-seen', [])
// What costs no more than time may be put off: until when, ms.
const later = useStorage<Record<string, number>>('saldatura.alarms-later', {})
const SNOOZE_MS = 10 * 60_000
// What can hurt somebody is told again until it is seen.
const AGAIN_MS = 30_000

/** Alarms of everything that waits, over all jobs: on screen, by tone and, where allowed, as notifications; in every window, and after a reload. */
export function useAlarms() {
  const { data } = useWaitingQuery()
  const now = useNow()
  // When what rings was last told aloud, ms.
  let told = 0
  watch(
    data,
    (told) => {
      if (!told) return
      const next = expected(alarms.value, told.waiting, Date.now(), told.ringing)
      if (JSON.stringify(next) !== JSON.stringify(alarms.value)) alarms.value = next
      const ids = new Set(next.map((a) => a.id))
      if (seen.value.some((id) => !ids.has(id))) seen.value = seen.value.filter((id) => ids.has(id))
    },
    { immediate: true },
  )
  const due = computed(() => telling(alarms.value, now.value).filter((a) => !seen.value.includes(a.id) && !(a.cost === 'time' && (later.value[a.id] ?? 0) > now.value)))
  watch(
    () => due.value.map((a) => a.id).join('\n'),
    (ids, before) => {
      const fresh = due.value.filter((a) => !(before ?? '').split('\n').includes(a.id))
      if (!ids || !fresh.length) return
      tell(due.value[0]!)
      if ('Notification' in window && Notification.permission === 'granted') for (const a of fresh) new Notification('Saldatura', { body: a.words, tag: a.id })
    },
    { immediate: true },
  )
  function tell(a: Alarm) {
    told = Date.now()
    tone(a.cost === 'danger' ? 'danger' : 'alarm')
    announce(a.words)
  }
  watch(now, () => {
    const first = due.value[0]
    if (first?.cost === 'danger' && Date.now() - told > AGAIN_MS) tell(first)
  })
  const see = (id: string) => (seen.value = [...seen.value, id])
  /** Put off for ten minutes; what costs more than time is not. */
  const snooze = (a: Alarm) => a.cost === 'time' && (later.value = { ...Object.fromEntries(Object.entries(later.value).filter(([, until]) => until > Date.now())), [a.id]: Date.now() + SNOOZE_MS })
  return { due, see, snooze }
}
