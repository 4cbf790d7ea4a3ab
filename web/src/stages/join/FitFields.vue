<script setup lang="ts">
import KeptField from '@/forms/KeptField.vue'
import NumberField from '@/forms/NumberField.vue'
import { computed, ref, toRef } from 'vue'
import type { Schemas } from '@/api/client'
import { quantity, sent } from '@/forms/quantity'
import { useKeptTexts } from '@/forms/useKeptTexts'
import { type Block, useKeepBlock } from './useBlock'
import TextField from '@/forms/TextField.vue'

/** What the block must go into and what must go back to its place: case, board, sensors; and strips that are laid otherwise. */
const props = defineProps<{ block: Block; closed: boolean }>()
const { keep, refusal } = useKeepBlock(toRef(props, 'block'))
const box = (b: Schemas['Box'] | null | undefined) => (b ? `${b.length_mm} × ${b.width_mm} × ${b.height_mm}` : '')
const text = useKeptTexts(() => {
  const t = props.block.entered
  return { cell: t.cell_mm ? String(t.cell_mm) : '', case: box(t.case), board: box(t.board), joint: t.joint_mm ? String(t.joint_mm) : '', strips: (t.strips ?? []).map((s) => `${s.side}: ${s.cells.join(' ')}`).join('\n') }
})
const said = ref<{ on: string; says: string } | null>(null)
/** Three lengths in millimetres, however they are kept apart. */
function boxed(what: 'case' | 'board') {
  said.value = null
  const t = text.value[what].trim()
  const n = t.split(/[\sx×*]+/i).filter(Boolean).map((p) => sent(p, 'mm') as number)
  if (!t) void keep({ [what]: null })
  else if (n.length === 3 && n.every((v) => v > 0)) void keep({ [what]: { length_mm: n[0]!, width_mm: n[1]!, height_mm: n[2]! } })
  else said.value = { on: what, says: 'three lengths in mm, as in 130 × 80 × 72' }
}
function cell() {
  said.value = null
  const t = text.value.cell.trim()
  const value = t ? quantity(t, 'mm') : null
  if (t && (value === null || value <= 0)) said.value = { on: 'cell', says: 'a length in mm, as in 65.2' }
  else void keep({ cell_mm: value })
}
function joint() {
  said.value = null
  const t = text.value.joint.trim()
  const value = t ? quantity(t, 'mm') : null
  if (t && (value === null || value < 0)) said.value = { on: 'joint', says: 'a height in mm, as in 1.5' }
  else void keep({ joint_mm: value })
}
function laid() {
  said.value = null
  const strips: Schemas['LaidStrip'][] = []
  for (const [k, line] of text.value.strips.split('\n').map((l) => l.trim()).entries()) {
    if (!line) continue
    const found = /^(top|bottom|around)\s*:\s*(\S+(?:[\s,]+\S+)+)$/.exec(line)
    if (!found) return void (said.value = { on: 'strips', says: `line ${k + 1} is no strip; write the side, or around, and its cells in order, as in top: c1 c2 c3` })
    strips.push({ side: found[1] as Schemas['LaidStrip']['side'], cells: found[2]!.split(/[\s,]+/) })
  }
  void keep({ strips })
}
// Sensors: those that are told, and those that photos of the opened pack show.
const sensors = computed(() => {
  const entered = props.block.entered.sensors ?? []
  const seen = props.block.old_places.flatMap((p) => (p.sensor && !entered.some((s) => s.sensor === p.sensor) ? [{ sensor: p.sensor, between: [] as string[] }] : []))
  return [...entered, ...seen]
})
const fresh = ref({ sensor: '', between: '' })
function place(sensor: string, between: string) {
  const cells = between.split(/[\s,]+/).filter(Boolean)
  void keep((entered) => {
    const others = (entered.sensors ?? []).filter((s) => s.sensor !== sensor)
    return { sensors: cells.length ? [...others, { sensor, between: cells, from_old: true }] : others }
  })
}
function add() {
  if (!fresh.value.sensor.trim() || !fresh.value.between.trim()) return
  place(fresh.value.sensor.trim(), fresh.value.between)
  fresh.value = { sensor: '', between: '' }
}
const on = (field: string) => (said.value?.on === field ? said.value.says : undefined)
</script>

<template>
  <details>
    <summary>Sensors, case and board, strips laid otherwise</summary>
    <div class="row">
      <KeptField v-for="s in sensors" :key="s.sensor" :value="s.between.join(' ')" :label="`${s.sensor} sits against`" :disabled="closed" placeholder="c3 c4" @keep="(t) => place(s.sensor, t)" />
      <TextField v-model="fresh.sensor" label="Another sensor" :disabled="closed" maxlength="60" placeholder="thermistor" @change="add" />
      <TextField v-model="fresh.between" label="sits against cells" :disabled="closed" placeholder="c3 c4" @change="add" />
    </div>
    <div class="row">
      <NumberField v-model="text.cell" label="A cell is long" unit="mm" :error="on('cell') ?? refusal?.on('cell_mm')" :disabled="closed" placeholder="by its diameter" @change="cell" />
      <TextField v-model="text.case" label="Case inside, mm" :error="on('case') ?? refusal?.on('case')" :disabled="closed" placeholder="130 × 80 × 72" @change="boxed('case')" />
      <TextField v-model="text.board" label="Board, mm" :error="on('board') ?? refusal?.on('board')" :disabled="closed" placeholder="60 × 40 × 9" @change="boxed('board')" />
      <NumberField v-model="text.joint" label="Joints stand over it" unit="mm" :error="on('joint') ?? refusal?.on('joint_mm')" :disabled="closed" placeholder="not at all" @change="joint" />
    </div>
    <TextField v-model="text.strips" label="Strips laid otherwise, one a line" :error="on('strips') ?? refusal?.on('strips')" type="textarea" :rows="3" :disabled="closed" placeholder="top: c1 c2 c3 c4" @change="laid" />
    <p v-if="refusal && !['cell_mm', 'joint_mm', 'case', 'board', 'strips'].some((f) => refusal!.on(f))" class="error" role="alert">{{ refusal.message }}</p>
  </details>
</template>

<style scoped>
.row {
  display: grid;
  gap: 8px 12px;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  margin-bottom: 8px;
}
</style>
