import { computed, onScopeDispose, type Ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { useLive } from './useLive'

/** The channels that may be switched on this job, with what their clips read, as the page's frames tell them while `wanted` holds. */
export function useOutputs(wanted: Ref<boolean>) {
  const { frame, want } = useLive()
  let asks = false
  const ask = (on: boolean) => {
    if (on !== asks) want('outputs', on)
    asks = on
  }
  watch(wanted, ask, { immediate: true })
  onScopeDispose(() => ask(false))
  const outputs = computed(() => frame.value?.outputs ?? null)
  /** What an act just answered, until a frame tells it. */
  function keep(answered: Schemas['OutputNow'][] | null) {
    if (answered && frame.value) frame.value = { ...frame.value, outputs: answered }
  }
  return { outputs, keep }
}
