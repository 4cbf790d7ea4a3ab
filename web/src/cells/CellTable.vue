<script setup lang="ts">
import { useVirtualList } from '@vueuse/core'
import { computed, shallowRef, toRef, watch } from 'vue'
import { percent } from '@/composables/format'
import { type Asked, type CellRow, milliohms, PAGE, type Sort, usePages } from './useCells'

/** The cells as rows: only those in sight are drawn, and only their pages fetched. */
const props = defineProps<{ asked: Asked; chosen: string | null; picked: Set<string>; grades: { key: string; name: string }[] }>()
const emit = defineEmits<{ choose: [string]; pick: [string]; sort: [Sort]; total: [number] }>()
const ROW = 44
const asked = toRef(props, 'asked')
const total = shallowRef(0)
const { containerProps, list, scrollTo, wrapperProps } = useVirtualList(computed(() => Array.from({ length: total.value }, (_, at) => at)), { itemHeight: ROW, overscan: 6 })
const pages = computed(() => {
  const from = Math.floor((list.value[0]?.data ?? 0) / PAGE)
  const to = Math.floor((list.value.at(-1)?.data ?? 0) / PAGE)
  return Array.from({ length: to - from + 1 }, (_, i) => from + i)
})
const found = usePages(asked, pages)
watch(() => found.value.find((q) => q.data)?.data?.total, (n) => n !== undefined && emit('total', (total.value = n)), { immediate: true })
watch(asked, () => scrollTo(0), { deep: true })
const rows = computed(() => {
  const held = new Map<number, CellRow>()
  pages.value.forEach((page, k) => found.value[k]?.data?.cells.forEach((cell, i) => held.set(page * PAGE + i, cell)))
  return list.value.map(({ data: at }) => ({ at, cell: held.get(at) ?? null }))
})
const failed = computed(() => found.value.some((q) => q.isError && !q.data))
const waiting = computed(() => found.value.some((q) => q.isPending))
const gradeName = (key: string) => props.grades.find((g) => g.key === key)?.name ?? key
const COLUMNS: { key: Sort | null; name: string; number?: boolean }[] = [
  { key: 'name', name: 'Cell' },
  { key: 'capacity', name: 'Ah', number: true },
  { key: null, name: 'of rated', number: true },
  { key: 'ohm', name: 'mΩ', number: true },
  { key: null, name: 'rests at', number: true },
  { key: 'grade', name: 'Grade, and why' },
  { key: null, name: 'Where' },
]
</script>

<template>
  <div class="cells" role="table" :aria-rowcount="total" aria-label="Cells">
    <div class="head" role="row">
      <span role="columnheader"></span>
      <span v-for="c in COLUMNS" :key="c.name" role="columnheader" :class="{ number: c.number }">
        <button v-if="c.key" type="button" class="by" :aria-pressed="asked.sort === c.key" @click="emit('sort', c.key)">{{ c.name }}{{ asked.sort === c.key ? ' ↓' : '' }}</button>
        <template v-else>{{ c.name }}</template>
      </span>
    </div>
    <div v-bind="containerProps" class="body" tabindex="0">
      <div v-bind="wrapperProps">
        <div v-for="{ at, cell } in rows" :key="cell?.name ?? at" role="row" class="row" :class="{ chosen: cell?.name === chosen, bad: cell?.grade === 'not_for_packs' }" :aria-rowindex="at + 1">
          <template v-if="cell">
            <span role="cell"><input type="checkbox" :checked="picked.has(cell.name)" :aria-label="`Pick ${cell.name}`" @change="emit('pick', cell.name)" /></span>
            <span role="cell"><button type="button" class="name" @click="emit('choose', cell.name)">{{ cell.name }}</button></span>
            <span role="cell" class="number mono">{{ cell.capacity_ah?.toFixed(2) ?? '–' }}</span>
            <span role="cell" class="number mono">{{ cell.share === null ? '–' : percent(cell.share) }}</span>
            <span role="cell" class="number mono">{{ milliohms(cell.ohm) }}</span>
            <span role="cell" class="number mono">{{ cell.rest_v?.toFixed(3) ?? '–' }}</span>
            <span role="cell" class="why" :title="cell.because"><strong>{{ gradeName(cell.grade) }}</strong> <span class="muted">{{ cell.because }}</span></span>
            <span role="cell" class="why" :title="cell.where">{{ cell.standing === 'drawer' ? `${cell.box} ${cell.row}`.trim() || 'drawer' : cell.where }}</span>
          </template>
        </div>
      </div>
      <p v-if="failed" class="error" role="alert">The rows cannot be shown: the program did not answer. It tries again by itself.</p>
      <p v-else-if="!total && !waiting" class="muted none">No cell here. Enter some, bring a tester’s file in, or look everywhere.</p>
    </div>
  </div>
</template>

<style scoped>
.cells {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  min-height: 0;
}

.head,
.row {
  align-items: center;
  display: grid;
  gap: 10px;
  grid-template-columns: 26px minmax(70px, 0.9fr) 54px 62px 54px 66px minmax(140px, 2.6fr) minmax(70px, 0.9fr);
}

.head {
  border-bottom: 1px solid var(--ink);
  color: var(--muted);
  font-size: 14px;
  font-weight: 650;
  min-height: 36px;
}

.by,
.name {
  background: none;
  border: 0;
  color: inherit;
  cursor: pointer;
  font: inherit;
  min-height: 34px;
  overflow: hidden;
  padding: 0;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  width: 100%;
}

.number .by {
  text-align: right;
}

.by[aria-pressed='true'] {
  color: var(--ink);
}

.name {
  color: var(--petrol);
  font-weight: 650;
}

.body {
  min-height: 180px;
  overflow: auto;
  position: relative;
}

.row {
  border-bottom: 1px solid var(--rule-soft);
  height: 44px;
}

.row input {
  height: 20px;
  width: 20px;
}

.chosen {
  background: var(--petrol-tint);
}

.bad .why strong {
  color: var(--hazard);
}

.number {
  text-align: right;
}

.why {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.none {
  padding: 14px 0;
}

@media (max-width: 700px) {
  .head,
  .row {
    grid-template-columns: 26px minmax(60px, 0.8fr) 48px 46px minmax(90px, 1.6fr);
  }

  .head > :nth-child(4),
  .row > :nth-child(4),
  .head > :nth-child(6),
  .row > :nth-child(6),
  .head > :nth-child(8),
  .row > :nth-child(8) {
    display: none;
  }
}
</style>
