import { useDark, useStorage } from '@vueuse/core'

export type PadCommand = 'r' | 'x' | 's'

interface Settings {
  pedal: string
  /** Keys of a keypad that act beside an empty field, by what they are on the board. */
  pad: Record<string, PadCommand>
  /** The key that a scanner ends a label with. */
  scanner: 'Enter' | 'Tab'
  tone: boolean
  speech: boolean
  technician: string
  fahrenheit: boolean
}

const settings = useStorage<Settings>('saldatura.settings', {
  pedal: 'PageDown',
  pad: {},
  scanner: 'Enter',
  tone: true,
  speech: false,
  technician: '',
  fahrenheit: false,
}, undefined, { mergeDefaults: true })

/** What this browser remembers: pedal, keypad and scanner, tone, speech, who works here, °C or °F. */
export const useSettings = () => settings

/** Dark scheme: follows the system until switched. */
export const dark = useDark({ storageKey: 'saldatura.scheme', disableTransition: false })
