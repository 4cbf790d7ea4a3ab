import { ref, type Ref, watch } from 'vue'

/**
 * The texts of fields over something that is kept. When that changes, as after another field was kept or in another window, a field shows it
 * only where nothing else has been typed in it meanwhile.
 */
export function useKeptTexts<K extends string>(kept: () => Record<K, string>): Ref<Record<K, string>> {
  let shown = kept()
  const texts = ref({ ...shown }) as Ref<Record<K, string>>
  watch(kept, (now) => {
    for (const key of Object.keys(now) as K[]) if (texts.value[key] === shown[key]) texts.value[key] = now[key]
    shown = now
  })
  return texts
}
