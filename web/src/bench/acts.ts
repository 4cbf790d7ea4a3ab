import { defineStore, storeToRefs } from 'pinia'
import { shallowRef } from 'vue'
import type { Schemas } from '@/api/client'
import { pinia } from '@/store'

export type WorkPlace = Schemas['NewWork']['place']

/** What a form begins with where a test asked for it: the chips it is about and the rail to type, or the try. */
interface Begins {
  about?: string
  says?: string
  rail?: string
  kind?: 'action' | 'swap'
  what?: string
}

/** The forms that any stage may ask for, and why the hand was sent away. */
const useActs = defineStore('acts', () => ({
  /** Asked for from within a stage: the last act back. */
  askUndo: shallowRef(0),
  /** The form of what was done: closed, or open at a place. */
  workAt: shallowRef<{ place: WorkPlace | null; change?: 'cells' | 'out'; groups?: number[] } | null>(null),
  /** The form of what was said or seen, or of what was tried: which is open. */
  noteOrTry: shallowRef<'note' | 'try' | null>(null),
  begins: shallowRef<Begins>({}),
  /** A test that Judge sent the hand away for, told where it is done until the hand is back. */
  errand: shallowRef<{ job: number; says: string } | null>(null),
}))

export const { askUndo, workAt, noteOrTry, begins, errand } = storeToRefs(useActs(pinia))

export const askWork = (place: WorkPlace | null = null) => (workAt.value = { place })
/** The same form, where new cells are in or a group is left out. */
export const askChange = (change: 'cells' | 'out', groups: number[] = []) => (workAt.value = { place: null, change, groups })
export function askNote(about?: string, says?: string, rail?: string) {
  begins.value = { about, says, rail }
  noteOrTry.value = 'note'
}
export function askTry(kind?: 'action' | 'swap', what?: string) {
  begins.value = { kind, what }
  noteOrTry.value = 'try'
}
