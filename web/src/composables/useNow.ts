import { useIntervalFn } from '@vueuse/core'
import { shallowRef } from 'vue'

const now = shallowRef(Date.now())
useIntervalFn(() => (now.value = Date.now()), 1000)

/** The time in ms, moving every second; one clock for the whole page. */
export const useNow = () => now
