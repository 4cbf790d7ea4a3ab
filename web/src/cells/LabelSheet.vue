<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref } from 'vue'
import { quantity } from '@/forms/quantity'

/** Labels for the picked cells, on whatever sheet lies in the printer. */
const props = defineProps<{ names: string[] }>()
const MOST = 500
const HELD = 'saldatura.label-grid'
const grid = ref<Record<string, string>>({ columns: '5', rows: '13', margin: '10', gap: '0', ...(JSON.parse(localStorage.getItem(HELD) ?? '{}') as object) })
const first = ref('1')
const number = (text: string | undefined, otherwise: number, unit?: 'mm') => quantity(text ?? '', unit) ?? otherwise
const address = computed(() => {
  const query = new URLSearchParams(props.names.slice(0, MOST).map((name) => ['cells', name]))
  query.set('origin', location.origin)
  query.set('columns', String(number(grid.value.columns, 5)))
  query.set('rows', String(number(grid.value.rows, 13)))
  query.set('first', String(number(first.value, 1)))
  query.set('margin_mm', String(number(grid.value.margin, 10, 'mm')))
  query.set('gap_mm', String(number(grid.value.gap, 0, 'mm')))
  return `/api/cells/labels.pdf?${query.toString()}`
})
const keep = () => localStorage.setItem(HELD, JSON.stringify(grid.value))
</script>

<template>
  <section class="labels">
    <div class="grid">
      <NumberField v-model="grid.columns" label="Across" whole />
      <NumberField v-model="grid.rows" label="Down" whole />
      <NumberField v-model="first" label="First free" whole />
      <NumberField v-model="grid.margin" label="Margin" unit="mm" />
      <NumberField v-model="grid.gap" label="Gap" unit="mm" />
    </div>
    <a :href="address" target="_blank" @click="keep">Labels for {{ Math.min(names.length, MOST) }} {{ names.length === 1 ? 'cell' : 'cells' }}, to print</a>
    <p v-if="names.length > MOST" class="muted">A sheet takes {{ MOST }} at once; pick fewer for the rest.</p>
  </section>
</template>

<style scoped>
.labels {
  display: grid;
  gap: 8px;
}

.grid {
  display: grid;
  gap: 8px;
  grid-template-columns: repeat(3, minmax(0, 1fr));
}
</style>
