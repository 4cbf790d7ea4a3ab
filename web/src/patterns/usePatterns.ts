import { useQuery } from '@tanstack/vue-query'
import { computed, type MaybeRefOrGetter, toValue } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient } from '@/api/queries'

export type Sheet = Schemas['PatternSheet']
export type Pattern = Schemas['PatternWhole']

const SELDOM_MS = 60_000

export function usePatternsQuery(search: MaybeRefOrGetter<string>, retired: MaybeRefOrGetter<boolean>, limit = 60) {
  return useQuery({
    queryKey: computed(() => ['patterns', toValue(search), toValue(retired)]),
    queryFn: () => settled(client.GET('/api/patterns', { params: { query: { search: toValue(search), retired: toValue(retired), limit } } })),
    refetchInterval: SELDOM_MS,
    placeholderData: (before) => before,
  })
}

export function usePatternQuery(id: MaybeRefOrGetter<number>) {
  return useQuery({
    queryKey: computed(() => ['pattern', toValue(id)]),
    queryFn: () => settled(client.GET('/api/patterns/{number}', { params: { path: { number: toValue(id) } } })),
    // What signed jobs add to its counts is told of the jobs, and not of it.
    refetchInterval: SELDOM_MS,
    retry: false,
  })
}

/** A pattern that an act gave back, where every view sees it; lists are asked anew. */
export function keepPattern(pattern: Pattern) {
  queryClient.setQueryData(['pattern', pattern.id], pattern)
  void queryClient.invalidateQueries({ queryKey: ['patterns'] })
}

export const photoOf = (sha256: string) => `/api/patterns/photos/${sha256}`
export const buildOf = (pack: Schemas['Pack']) => {
  const one = `${pack.series / pack.strings}S${pack.parallel}P`
  return pack.strings > 1 ? `${pack.strings} × ${one}` : one
}
export const wholeAh = (pack: Schemas['Pack']) => Number((pack.rated_ah * pack.strings).toPrecision(6))
