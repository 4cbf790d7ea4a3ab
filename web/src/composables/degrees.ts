import { useSettings } from './useSettings'

const settings = useSettings()

/** A temperature in the unit that this browser shows, with its unit. */
export function degrees(celsius: number, digits = 0): string {
  const value = settings.value.fahrenheit ? celsius * 1.8 + 32 : celsius
  return `${value.toFixed(digits).replace('-', '−')} ${degreeUnit()}`
}

export const degreeUnit = () => (settings.value.fahrenheit ? '°F' : '°C')

/** What is typed in the unit shown, in °C. */
export const toCelsius = (typed: number) => (settings.value.fahrenheit ? (typed - 32) / 1.8 : typed)
export const fromCelsius = (celsius: number) => (settings.value.fahrenheit ? celsius * 1.8 + 32 : celsius)
