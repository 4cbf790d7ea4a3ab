<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import TextField from '@/forms/TextField.vue'
import { ref, toRef, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { useJob } from '@/composables/useJob'
import { quantity, sent } from '@/forms/quantity'
import { useKeptTexts } from '@/forms/useKeptTexts'
import { type Block, type Told, useKeepBlock } from './useBlock'
import Choice from '@/forms/Choice.vue'

/** How the cells stand and of what the strips are; kept as a field is left, and the map is made anew. */
const props = defineProps<{ block: Block; closed: boolean }>()
const { keep: keepBlock, busy, refusal } = useKeepBlock(toRef(props, 'block'))
const ARRANGED: Record<Schemas['NewBlock']['arrangement'], string> = { grid: 'in a grid', hex: 'hexagonal', line: 'in a line', stack: 'pouches in a stack' }
const METALS: Record<Schemas['Strip']['material'], string> = { nickel: 'nickel', plated_steel: 'plated steel', copper: 'copper', aluminium: 'aluminium', brass: 'brass' }
const TABS = { one_end: 'side by side at one end', both_ends: 'one at either end' } as const
const POLES = { positive: 'the plus tab', negative: 'the minus tab' } as const
const entered = ref<Schemas['NewBlock']>(props.block.entered)
watch(() => props.block.entered, (now) => (entered.value = { ...now, strip: { ...now.strip }, pouch: { ...now.pouch } }), { immediate: true })
const job = useJob()
const show = (v: number | null | undefined) => (v === null || v === undefined ? '' : String(v))
const text = useKeptTexts(() => {
  const { columns, layers, diameter_mm, pitch_mm, strip, pouch, cross } = props.block.entered
  return { columns: show(columns), layers: show(layers ?? 1), diameter: show(diameter_mm), pitch: show(pitch_mm), width: show(strip.width_mm), thickness: show(strip.thickness_mm), glued: pouch.glued ?? '', cross: (cross ?? []).join(', ') }
})
async function keep() {
  const t = text.value
  const strip = { ...entered.value.strip, width_mm: sent(t.width, 'mm'), thickness_mm: sent(t.thickness, 'mm') }
  const { arrangement, cells } = entered.value
  // Strips entered for one map are not those of another; a sensor stays where its cells are still called so.
  const before = props.block.entered
  const moved = arrangement !== before.arrangement || quantity(t.columns) !== (before.columns ?? null) || quantity(t.layers) !== (before.layers ?? 1) || (before.cells?.length ?? 0) !== (cells?.length ?? 0)
  const other = moved ? { strips: [], around: [], sensors: before.cells?.length ? [] : before.sensors } : {}
  await keepBlock({ ...other, arrangement, cells, columns: sent(t.columns), layers: arrangement === 'stack' ? 1 : (sent(t.layers) ?? 1), diameter_mm: sent(t.diameter, 'mm'), pitch_mm: sent(t.pitch, 'mm'), strip, pouch: { ...entered.value.pouch, glued: t.glued.trim() }, cross: t.cross.split(/[\s,;]+/).filter(Boolean).map((tap) => sent(tap)) } as Partial<Told>)
}
// Sizes of cells as they are called; the server knows their millimetres.
const SIZES = /^(18650|21700|26650|sub[ -]?c|sc|aa)$/i
function choose(change: () => void) {
  change()
  void keep()
}
</script>

<template>
  <form class="fields" @submit.prevent="keep" @change="keep">
    <Choice label="The cells stand" :options="ARRANGED" :chosen="(key) => entered.arrangement === key && !entered.cells.length" :disabled="closed" @choose="(key) => choose(() => (entered = { ...entered, arrangement: key, cells: [] }))"><span v-if="entered.cells.length" class="muted">each placed by hand; an arrangement takes their place</span></Choice>
    <div class="row">
      <NumberField v-model="text.columns" label="Columns" whole :error="refusal?.on('columns')" :disabled="closed" placeholder="by itself" />
      <NumberField v-if="!entered.cells.length && entered.arrangement !== 'stack'" v-model="text.layers" label="Layers" whole :error="refusal?.on('layers')" :disabled="closed" />
      <NumberField v-if="job.now.strings > 1" v-model="text.cross" many whole label="Cross links at taps" :error="refusal?.on('cross')" :disabled="closed" placeholder="none" />
      <NumberField v-model="text.diameter" label="Diameter" unit="mm" :names="SIZES" placeholder="18.4, 18650, SC" :error="refusal?.on('diameter_mm')" :disabled="closed" />
      <NumberField v-model="text.pitch" label="Pitch" unit="mm" :error="refusal?.on('pitch_mm')" :disabled="closed" placeholder="usual" />
      <NumberField v-model="text.width" label="Strip wide" unit="mm" :error="refusal?.on('strip.width_mm')" :disabled="closed" />
      <NumberField v-model="text.thickness" label="thick" unit="mm" :error="refusal?.on('strip.thickness_mm')" :disabled="closed" />
    </div>
    <div v-if="entered.arrangement === 'stack'" class="chips" role="group" aria-label="The pouches">
      <span>Tabs</span><button v-for="(words, key) in TABS" :key="key" type="button" class="chip" :disabled="closed" :aria-pressed="entered.pouch.tabs === key" @click="choose(() => (entered.pouch.tabs = key))">{{ words }}</button>
      <span>aluminium is</span><button v-for="(words, key) in POLES" :key="key" type="button" class="chip" :disabled="closed" :aria-pressed="entered.pouch.aluminium === key" @click="choose(() => (entered.pouch.aluminium = key))">{{ words }}</button>
    </div>
    <TextField v-if="entered.arrangement === 'stack'" v-model="text.glued" label="What is glued to what" maxlength="200" :disabled="closed" placeholder="each pouch to the next, the outer ones to the case" />
    <Choice label="Strip of" :options="METALS" :chosen="(key) => entered.strip.material === key" :disabled="closed" @choose="(key) => choose(() => (entered.strip.material = key))">
      <button v-for="n in 3" :key="n" type="button" class="chip" :disabled="closed" :aria-pressed="entered.strip.layers === n" @click="choose(() => (entered.strip.layers = n))">{{ n }} {{ n === 1 ? 'layer' : 'layers' }}</button>
      <button v-for="where in (['end', 'middle'] as const)" :key="where" type="button" class="chip" :disabled="closed" :aria-pressed="entered.strip.take_off === where" @click="choose(() => (entered.strip.take_off = where))">load at the {{ where }}</button>
    </Choice>
    <p v-if="busy" class="visually-hidden" role="status">keeping</p>
    <p v-if="refusal && !['columns', 'layers', 'cross', 'diameter_mm', 'pitch_mm', 'strip.width_mm', 'strip.thickness_mm'].some((f) => refusal!.on(f))" class="error" role="alert">{{ refusal.message }}</p>
  </form>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 10px;
}

.row {
  align-items: end;
  display: grid;
  gap: 8px 12px;
  grid-template-columns: repeat(auto-fill, minmax(96px, 1fr));
}
</style>
