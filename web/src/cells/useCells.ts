import { keepPreviousData, useQueries, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import type { Box } from '@/figures/CellPlot.vue'

export type CellRow = Schemas['CellRow']
export type CellWhole = Schemas['CellWhole']
export type Sort = 'name' | 'capacity' | 'ohm' | 'grade' | 'came' | 'loss'

/** Which cells are asked for. `where`: a place, or everywhere. */
export interface Asked {
  type: string
  grade: Schemas['CellRow']['grade'] | ''
  where: Schemas['CellRow']['standing'] | 'everywhere'
  search: string
  box: Box | null
  sort: Sort
}

export const PAGE = 100

const base = (asked: Asked) => ({
  type: asked.type,
  grade: asked.grade || undefined,
  standing: asked.where === 'everywhere' ? undefined : asked.where,
  everywhere: asked.where === 'everywhere',
  search: asked.search,
})

const queryOf = (asked: Asked) => ({
  ...base(asked),
  sort: asked.sort,
  capacity_from: asked.box?.ah[0],
  capacity_to: asked.box?.ah[1],
  ohm_from: asked.box?.ohm[0],
  ohm_to: asked.box?.ohm[1],
})

/** The types of the catalogue, the grades, and what can be seen on a cell. */
export function useCatalogue() {
  return useQuery({ queryKey: ['cells', 'types'], queryFn: () => settled(client.GET('/api/cells/types')) })
}

/** Every cell asked for as a mark of the figure. */
export function useMarks(asked: Ref<Asked>) {
  return useQuery({
    queryKey: computed(() => ['cells', 'figure', base(asked.value)]),
    queryFn: () => settled(client.GET('/api/cells/figure', { params: { query: base(asked.value) } })),
    placeholderData: keepPreviousData,
  })
}

/** Those pages of the list that are in sight, as they come. */
export function usePages(asked: Ref<Asked>, pages: Ref<number[]>) {
  return useQueries({
    queries: computed(() =>
      pages.value.map((page) => ({
        queryKey: ['cells', 'page', queryOf(asked.value), page],
        queryFn: () => settled(client.GET('/api/cells', { params: { query: { ...queryOf(asked.value), offset: page * PAGE, limit: PAGE } } })),
        placeholderData: keepPreviousData,
      })),
    ),
  })
}

/** Names of all that are asked for, at most so many as can be acted on at once. */
export async function namesOf(asked: Asked, most = 2000): Promise<string[]> {
  const found = await settled(client.GET('/api/cells', { params: { query: { ...queryOf(asked), offset: 0, limit: most } } }))
  return found.cells.map((cell) => cell.name)
}

export function useCell(name: Ref<string | null>) {
  return useQuery({
    queryKey: computed(() => ['cells', 'of', name.value]),
    queryFn: () => settled(client.GET('/api/cells/of/{name}', { params: { path: { name: name.value! } } })),
    enabled: computed(() => name.value !== null),
    retry: false,
  })
}

/** Everything shown of cells, fetched anew after an act on them. */
export function useAnew() {
  const cache = useQueryClient()
  return () => cache.invalidateQueries({ queryKey: ['cells'] })
}

/** A label's address, or a name typed or scanned, as a cell's name. */
export function scanned(text: string): string {
  const of = text.trim()
  const path = /\/cells\/([^/?#]+)\/?$/.exec(of)
  return path ? decodeURIComponent(path[1]!) : of
}

export const milliohms = (ohm: number | null | undefined) => (ohm === null || ohm === undefined ? '–' : (ohm * 1000).toFixed(1))
