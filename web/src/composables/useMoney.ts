import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, settled } from '@/api/client'

export function useCardQuery() {
  return useQuery({ queryKey: ['card'], queryFn: () => settled(client.GET('/api/card')), staleTime: 60_000 })
}

/** Prices as the shop writes them: “45 €”, “4.50 €”. */
export function useMoney() {
  const { data: card } = useCardQuery()
  const currency = computed(() => card.value?.currency ?? 'EUR')
  function money(value: number | null | undefined, none = 'no price'): string {
    if (value === null || value === undefined) return none
    const digits = Math.abs(value) < 10 && !Number.isInteger(value) ? 2 : 0
    try {
      return new Intl.NumberFormat(undefined, { style: 'currency', currency: currency.value, minimumFractionDigits: digits, maximumFractionDigits: digits }).format(value)
    } catch {
      return `${value.toFixed(digits)} ${currency.value}`
    }
  }
  return { currency, money }
}
