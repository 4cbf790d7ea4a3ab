<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient, useMeterQuery, useTermsQuery } from '@/api/queries'
import { useAct } from '@/composables/useAct'
import { following } from '@/forms/following'
import { sent } from '@/forms/quantity'

/** The bench's meter as its maker states it, range by range. */
const { data: meter } = useMeterQuery()
const { data: terms } = useTermsQuery()
const { act, busy, refusal } = useAct()
type Row = Record<'to_v' | 'percent' | 'digits' | 'resolution_v', string>
const LABELS = { to_v: 'to, V', percent: 'percent', digits: 'digits', resolution_v: 'one digit, V' }
const text = (r: Schemas['MeterRange']): Row => ({ to_v: String(r.to_v), percent: String(r.percent), digits: String(r.digits), resolution_v: String(r.resolution_v) })
// A meter of which only one range was ever told has that one.
const written = (m: Schemas['Meter']): Row[] => m.ranges?.length ? m.ranges.map(text) : [text({ to_v: 1000, percent: m.percent, digits: m.digits, resolution_v: m.resolution_v })]
const copied = (table: Row[]): Row[] => table.map((row) => ({ ...row }))

const rows = ref<Row[]>([])
const kept = ref(false)
// What another window saved is shown where nothing is typed over it: the ranges are one thing.
let shown: Row[] = []
function follow(now: Row[], from: Row[]) {
  rows.value = copied(following({ rows: now }, { rows: from }, { rows: rows.value }).rows)
  shown = now
}
watch(meter, (m) => m && follow(written(m), shown), { immediate: true })

const choose = (key: string) => (rows.value = (terms.value?.meters.find((m) => m.key === key)?.ranges ?? []).map(text))
const another = () => rows.value.push({ to_v: '', percent: rows.value.at(-1)?.percent ?? '', digits: rows.value.at(-1)?.digits ?? '', resolution_v: '' })
// A line of one field names it as the table does.
const wrongIn = (row: number, column: keyof Row) => refusal.value?.lines.find((line) => line.field === `ranges.${row}.${column}`)
const wrong = computed(() => {
  const lines = refusal.value?.lines.filter((line) => line.field.startsWith('ranges')) ?? []
  return (lines.length ? lines : (refusal.value?.lines ?? [])).map((line) => {
    const [, row, column] = line.field.split('.')
    return column && column in LABELS ? `range ${Number(row) + 1}, ${LABELS[column as keyof Row]}: ${line.message}` : line.message
  })
})

const number = (typed: string, unit?: 'V' | '%') => sent(typed, unit) as number
function typed(): Schemas['Meter'] {
  const ranges = rows.value.map((r) => ({ to_v: number(r.to_v, 'V'), percent: number(r.percent, '%'), digits: number(r.digits), resolution_v: number(r.resolution_v, 'V') }))
  // The range that a group is read on stands for the meter where one figure has to.
  const own = ranges.find((r) => r.to_v >= 4.5) ?? ranges.at(-1)!
  return { percent: own.percent, digits: own.digits, resolution_v: own.resolution_v, ranges }
}

async function keep() {
  kept.value = false
  const sending = copied(rows.value)
  const now = await act(() => settled(client.POST('/api/meter', { body: typed() })))
  if (!now) return
  follow(written(now), sending)
  queryClient.setQueryData(['meter'], now)
  kept.value = true
}
</script>

<template>
  <form v-if="meter" class="part" @submit.prevent="keep">
    <h2>The meter</h2>
    <p class="muted">As its maker states it. Every reading's uncertainty, and so every limit, comes from this; sets already begun keep their own.</p>
    <div class="chips" role="group" aria-label="A common class of meter">
      <button v-for="m in terms?.meters ?? []" :key="m.key" type="button" class="chip" @click="choose(m.key)">{{ m.name }}</button>
    </div>
    <table class="ranges">
      <thead><tr><th>range to, V</th><th>± percent of reading</th><th>± digits</th><th>one digit is, V</th><th><span class="visually-hidden">remove</span></th></tr></thead>
      <tbody>
        <tr v-for="(r, i) in rows" :key="i">
          <td v-for="field in (['to_v', 'percent', 'digits', 'resolution_v'] as const)" :key="field"><ElInput v-model="r[field]" inputmode="decimal" :aria-label="`range ${i + 1}, ${LABELS[field]}`" :aria-invalid="Boolean(wrongIn(i, field))" /></td>
          <td><button v-if="rows.length > 1" type="button" class="linklike" :aria-label="`leave range ${i + 1} out`" @click="rows.splice(i, 1)">remove</button></td>
        </tr>
      </tbody>
    </table>
    <button type="button" class="linklike first" @click="another">add a range</button>
    <div v-if="refusal" role="alert"><p v-for="line in wrong" :key="line" class="error">{{ line }}</p></div>
    <div class="keep"><ElButton type="primary" native-type="submit" :loading="busy">Save the meter</ElButton><span v-if="kept" role="status">Saved for sets begun from now on.</span></div>
  </form>
</template>

<style scoped>
.part {
  display: grid;
  gap: 10px;
  max-width: 640px;
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.ranges .linklike {
  white-space: nowrap;
}

.ranges td {
  padding: 4px 6px 4px 0;
}

.first {
  justify-self: start;
  margin: 0;
}

.keep {
  align-items: center;
  display: flex;
  gap: 14px;
}
</style>
