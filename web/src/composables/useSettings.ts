import { useDark, useStorage } from '@vueuse/core'

interface Settings {
  pedal: string
  tone: boolean
  speech: boolean
  technician: string
  fahrenheit: boolean
}

const settings = useStorage<Settings>('saldatura.settings', {
  pedal: 'PageDown',
  tone: true,
  speech: false,
  technician: '',
  fahrenheit: false,
}, undefined, { mergeDefaults: true })

/** What this browser remembers: pedal key, tone, speech, who works here, °C or °F. */
export const useSettings = () => settings

/** Dark scheme: follows the system until switched. */
export const dark = useDark({ storageKey: 'saldatura.scheme', disableTransition: false })
