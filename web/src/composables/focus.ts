import { nextTick } from 'vue'

const alive = (element: Element | null): element is HTMLElement =>
  element instanceof HTMLElement && element !== document.body && element.isConnected && !element.matches(':disabled') && element.offsetParent !== null

/** Let the hand go on where it is: to the field that was refused, back to what was pressed, or to the next thing to do. */
export async function settleFocus(from: Element | null, refused: boolean) {
  await nextTick()
  // A hand that types in another field by now is not pulled away from it.
  const at = document.activeElement
  if (refused && at !== from && alive(at) && at.matches('input, textarea')) return
  const wrong = refused ? document.querySelector<HTMLElement>('.row:has(> .error) :is(input, textarea, button)') : null
  if (wrong) return wrong.focus()
  if (alive(document.activeElement)) return
  if (alive(from)) return from.focus()
  toNext()
}

/** The next thing to do on this screen, else its heading, so that a reader and the keys begin there. */
export function toNext() {
  const next = document.querySelector<HTMLElement>('#app [data-next]') ?? document.querySelector<HTMLElement>('main h1')
  if (!next) return
  if (next.matches('h1')) next.tabIndex = -1
  next.focus({ preventScroll: true })
}
