import { useEventListener } from '@vueuse/core'
import { onBeforeUnmount, shallowReactive } from 'vue'

export interface Shortcut {
  /** The key as KeyboardEvent.key gives it. */
  key: string
  alt?: boolean
  does: string
  /** Left out where the key only means something inside a field, which handles it itself. */
  run?: () => void
  /** Also while a field for numbers has the focus. */
  always?: boolean
}

const screens = shallowReactive(new Set<() => Shortcut[]>())
export { sheetOpen } from '@/store'

/** All shortcuts of the screen as it is now. */
export const shortcuts = () => [...screens].flatMap((list) => list())

// A field for numbers takes no letters: what acts everywhere acts beside it too.
const takesLetters = (target: EventTarget | null) => !(target instanceof HTMLElement && target.matches('input[inputmode=decimal], input[inputmode=numeric]'))
const inField = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.matches('input:not([type=checkbox], [type=radio]), textarea, select') || target.isContentEditable)

// A form that stands open has the keys for itself: a digit meant for it must not begin something behind it. One on its way out has not.
const formOpen = () => [...document.querySelectorAll('[role="dialog"][aria-modal="true"]:not(.is-closing)')].some((form) => form.getClientRects().length > 0)

useEventListener(document, 'keydown', (event: KeyboardEvent) => {
  if (event.defaultPrevented || event.ctrlKey || event.metaKey) return
  const found = shortcuts().find(
    (s) => s.run && s.key.toLowerCase() === event.key.toLowerCase() && (s.alt ?? false) === event.altKey,
  )
  if (!found?.run || (inField(event.target) && !found.alt && !(found.always && !takesLetters(event.target)))) return
  if (found.key !== '?' && formOpen()) return
  event.preventDefault()
  found.run()
})

/** Add a screen's shortcuts for as long as it is shown; `?` lists them. */
export function useShortcuts(list: Shortcut[] | (() => Shortcut[])) {
  const held = typeof list === 'function' ? list : () => list
  screens.add(held)
  onBeforeUnmount(() => screens.delete(held))
}
