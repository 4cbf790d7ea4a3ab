<script setup lang="ts">
import { computed, ref } from 'vue'
import FieldRow from '@/bench/FieldRow.vue'
import { parseNumber } from '@/composables/parseVolts'

/** Labels for the picked cells, on whatever sheet lies in the printer. */
const props = defineProps<{ names: string[] }>()
const MOST = 500
const HELD = 'saldatura.label-grid'
const grid = ref<Record<string, string>>({ columns: '5', rows: '13', margin: '10', gap: '0', ...(JSON.parse(localStorage.getItem(HELD) ?? '{}') as object) })
const first = ref('1')
const number = (text: string | undefined, otherwise: number) => parseNumber(text ?? '') ?? otherwise
const address = computed(() => {
  const query = new URLSearchParams(props.names.slice(0, MOST).map((name) => ['cells', name]))
  query.set('origin', location.origin)
  query.set('columns', String(number(grid.value.columns, 5)))
  query.set('rows', String(number(grid.value.rows, 13)))
  query.set('first', String(number(first.value, 1)))
  query.set('margin_mm', String(number(grid.value.margin, 10)))
  query.set('gap_mm', String(number(grid.value.gap, 0)))
  return `/api/cells/labels.pdf?${query.toString()}`
})
const keep = () => localStorage.setItem(HELD, JSON.stringify(grid.value))
</script>

<template>
  <section class="labels">
    <div class="grid">
      <FieldRow label="Across"><template #default="{ id }"><ElInput :id="id" v-model="grid.columns" inputmode="numeric" /></template></FieldRow>
      <FieldRow label="Down"><template #default="{ id }"><ElInput :id="id" v-model="grid.rows" inputmode="numeric" /></template></FieldRow>
      <FieldRow label="First free"><template #default="{ id }"><ElInput :id="id" v-model="first" inputmode="numeric" /></template></FieldRow>
      <FieldRow label="Margin, mm"><template #default="{ id }"><ElInput :id="id" v-model="grid.margin" inputmode="decimal" /></template></FieldRow>
      <FieldRow label="Gap, mm"><template #default="{ id }"><ElInput :id="id" v-model="grid.gap" inputmode="decimal" /></template></FieldRow>
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
