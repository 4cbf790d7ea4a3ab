import { createPinia, defineStore, storeToRefs } from 'pinia'
import { shallowRef } from 'vue'

/** The window's store: what stands open and what is pointed at. What the server knows lives in the query cache, and only there. */
export const pinia = createPinia()

const useScreen = defineStore('screen', () => ({
  /** Whether the list of shortcuts is open. */
  sheetOpen: shallowRef(false),
  /** Since when (ms) the program has not answered; null while it does. */
  gone: shallowRef<number | null>(null),
}))

export const { sheetOpen, gone } = storeToRefs(useScreen(pinia))
