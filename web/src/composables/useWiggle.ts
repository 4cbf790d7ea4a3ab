import { inject, type InjectionKey, onScopeDispose, provide, shallowRef, triggerRef, watch } from 'vue'
import { Dropouts } from '@/stages/measures/dropouts'
import { fresh, type Live } from './useLive'
import { tone } from './useVoice'

// Below this a meter hangs in the air: nothing can drop out of it.
const LIFTED_V = 0.02

/** A meter watched while a part is moved. It goes on whatever view of the job is shown, and is seen under the figure. */
export function provideWiggle({ want, frame }: Live) {
  const running = shallowRef<Dropouts | null>(null)
  const watching = shallowRef(false)
  const said = shallowRef<string | null>(null)
  const lasted = shallowRef(0)
  let began = 0

  const meter = () => frame.value?.instruments.find((i) => i.kind === 'meter' && fresh(i)) ?? null
  const valueOf = (m: ReturnType<typeof meter>) => m?.live?.ohm ?? m?.live?.volts ?? null

  watch(frame, (now) => {
    const m = meter()
    // A meter that says nothing has not seen a drop-out.
    if (!watching.value || !now || !running.value || !m) return
    if (running.value.see(now.at, valueOf(m))) tone('questioned')
    triggerRef(running)
  })
  watch(watching, (on) => want('every', on))
  onScopeDispose(() => watching.value && want('every', false))

  function start() {
    const m = meter()
    const value = valueOf(m)
    const lifted = frame.value?.virtual?.probes.at === 'air' && m?.key === 'stand-in-meter'
    said.value = value === null || lifted || (m?.live?.ohm == null && Math.abs(value) < LIFTED_V) ? 'The meter is on nothing: put it on the tap or sensor that is to hold still, then start' : null
    if (said.value) return
    began = Date.now() / 1000
    lasted.value = 0
    running.value = new Dropouts(began)
    watching.value = true
  }

  function stop() {
    watching.value = false
    lasted.value = Math.max(Date.now() / 1000 - began, 0.1)
  }

  function done() {
    running.value = null
    lasted.value = 0
  }

  const given = { done, lasted, running, said, start, stop, watching }
  provide(KEY, given)
  return given
}

export type Wiggle = ReturnType<typeof provideWiggle>
const KEY: InjectionKey<Wiggle> = Symbol('wiggle')

/** The watch of the job's frame. */
export function useWiggle(): Wiggle {
  const found = inject(KEY)
  if (!found) throw new Error('useWiggle outside a job frame')
  return found
}
