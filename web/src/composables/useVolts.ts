import { computed, ref, shallowRef, watch } from 'vue'
import { volts } from './format'
import { parseVolts, type Range, stepOf } from './parseVolts'
import { Question } from './question'

export interface Taken {
  volts: number
  step: number | null
}

/** A voltage as it is typed anywhere: what is meant, one question where it cannot be, and no confirming by a key that bounced. */
export function useVolts(what: () => string, expected: () => Range, plausible: () => Range) {
  const text = ref('')
  const questioned = shallowRef<string | null>(null)
  const wrong = shallowRef<string | null>(null)
  const question = new Question()

  const meant = computed(() => parseVolts(text.value, expected(), plausible()))
  /** Digits without a point are taken for volts: how, so that nobody is surprised. */
  const preview = computed(() => (meant.value !== null && /^\s*\d{2,}\s*$/.test(text.value) ? `taken as ${volts(meant.value, 2)} V` : null))
  watch(text, () => (questioned.value = wrong.value = null))

  /** The value, or null with the reason in `wrong` or `questioned`. */
  function take(): Taken | null {
    const value = meant.value
    if (value === null) {
      wrong.value = text.value.trim() ? `“${text.value}” is not a number; type volts such as 4.11, 4,11 or 411` : `type what ${what()} reads, in volts`
      return null
    }
    const { low, high } = plausible()
    if (value < low || value > high) {
      if (questioned.value === null || !question.answeredBy(text.value)) {
        if (questioned.value === null) question.ask(text.value)
        questioned.value = `${volts(value, 2)} V cannot be right at ${what()}: it lies between ${volts(low, 2)} and ${volts(high, 2)} V.`
        return null
      }
    }
    return { volts: value, step: stepOf(text.value, value) }
  }

  function clear() {
    text.value = ''
    question.drop()
  }

  return { clear, preview, questioned, take, text, wrong }
}
