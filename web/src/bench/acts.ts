import { shallowRef } from 'vue'
import type { Schemas } from '@/api/client'

export type WorkPlace = Schemas['NewWork']['place']

/** Asked for from within a stage: the last act back. */
export const askUndo = shallowRef(0)

/** The form of what was done: closed, or open at a place. */
export const workAt = shallowRef<{ place: WorkPlace | null; change?: 'cells' | 'out'; groups?: number[] } | null>(null)
export const askWork = (place: WorkPlace | null = null) => (workAt.value = { place })
/** The same form, where new cells are in or a group is left out. */
export const askChange = (change: 'cells' | 'out', groups: number[] = []) => (workAt.value = { place: null, change, groups })

/** The form of what was said or seen, or of what was tried: which is open. */
export const noteOrTry = shallowRef<'note' | 'try' | null>(null)

/** What the form begins with where a test asked for it: the chips it is about and the rail to type, or the try. */
export const begins = shallowRef<{ about?: string; says?: string; rail?: string; kind?: 'action' | 'swap'; what?: string }>({})
export function askNote(about?: string, says?: string, rail?: string) {
  begins.value = { about, says, rail }
  noteOrTry.value = 'note'
}
export function askTry(kind?: 'action' | 'swap', what?: string) {
  begins.value = { kind, what }
  noteOrTry.value = 'try'
}

/** A test that Judge sent the hand away for, told where it is done until the hand is back. */
export const errand = shallowRef<{ job: number; says: string } | null>(null)
