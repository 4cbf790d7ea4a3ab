import { shallowRef } from 'vue'
import type { Schemas } from '@/api/client'

export type WorkPlace = Schemas['NewWork']['place']

/** Asked for from within a stage: the last act back. */
export const askUndo = shallowRef(0)

/** The form of what was done: closed, or open at a place. */
export const workAt = shallowRef<{ place: WorkPlace | null } | null>(null)
export const askWork = (place: WorkPlace | null = null) => (workAt.value = { place })

/** The form of what was said or seen, or of what was tried: which is open. */
export const noteOrTry = shallowRef<'note' | 'try' | null>(null)
