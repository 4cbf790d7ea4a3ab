<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { volts } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useInTurn } from '@/composables/useInTurn'
import { useJob } from '@/composables/useJob'
import ReadAt from '@/bench/ReadAt.vue'
import KeptField from '@/forms/KeptField.vue'
import type { Block } from './useBlock'

/** Each pin with its wire, the volts it must read, and what it read, pin by pin; and what a board of another make would see there. */
const props = defineProps<{ block: Block; closed: boolean; series: number }>()
const job = useJob()
const { act, busy, refusal } = useAct()
const wiring = computed(() => props.block.wiring)
const picked = ref<{ connector: string; pin: number } | null>(null)
const at = computed(() => picked.value ?? (wiring.value.next_connector === null ? null : { connector: wiring.value.next_connector!, pin: wiring.value.next_pin! }))
const row = computed(() => wiring.value.connectors.find((c) => c.name === at.value?.connector)?.rows.find((r) => r.pin === at.value?.pin) ?? null)
const path = computed(() => ({ params: { path: { job_id: job.value.facts.id } } }))
const ORDERS: Record<Schemas['OtherBoard']['order'], string> = { from_plus: 'counts from plus', without_minus: 'has no minus wire', as_told: 'as its sheet says' }
const taps = ref('')
watch(() => wiring.value.entered.other?.taps, (entered) => (taps.value = (entered ?? []).map((t) => t ?? '–').join(' ')), { immediate: true })

async function read(value: number) {
  const body = { connector: at.value!.connector, pin: at.value!.pin, volts: value }
  const kept = await act(() => settled(client.POST('/api/jobs/{job_id}/pin-reads', { ...path.value, body })))
  if (kept) picked.value = null
  return kept
}
const { keep: tell, busy: keeping, refusal: refused } = useInTurn<Schemas['NewWiring']>(
  () => `wiring ${job.value.facts.id}`, () => wiring.value as { entered: Schemas['NewWiring'] },
  (body, known) => settled(client.POST('/api/jobs/{job_id}/wiring', { params: { ...path.value.params, query: { seen: Math.max(job.value.facts.last_id, known) } }, body })),
)
const pins = computed(() => wiring.value.entered.connectors.flatMap((c) => c.pins))
/** One connector, or the pins halved over two. */
function plugs(count: 1 | 2) {
  const all = pins.value.map((p, k) => ({ ...p, pin: k }))
  const half = Math.ceil(all.length / 2)
  picked.value = null
  void tell({ connectors: count === 1 ? [{ name: 'balance', pins: all }] : [{ name: 'lower', pins: all.slice(0, half) }, { name: 'upper', pins: all.slice(half).map((p, k) => ({ ...p, pin: k })) }], other: count === 1 ? wiring.value.entered.other : null })
}
function change(part: Partial<Schemas['PinWire']>) {
  const { connector, pin } = at.value ?? {}
  void tell((entered) => ({ connectors: entered.connectors.map((c) => (c.name === connector ? { ...c, pins: c.pins.map((p) => (p.pin === pin ? { ...p, ...part } : p)) } : c)) }))
}
function goesTo(text: string) {
  const word = text.trim()
  const tap = /^\d+$/.test(word) ? Number(word) : null
  change({ tap, sensor: tap === null && word ? word : null })
}
function addPin() {
  if (keeping.value) return
  void tell((entered) => ({ connectors: entered.connectors.map((c, k) => (k === 0 ? { ...c, pins: [...c.pins, { pin: Math.max(...c.pins.map((p) => p.pin)) + 1, wire: '', tap: null, sensor: null }] } : c)) }))
}
const typedTaps = () => taps.value.trim().split(/[\s,;]+/).filter(Boolean).map((t) => (/^\d+$/.test(t) ? Number(t) : null))
const mine = (name: string, pin: number) => at.value?.connector === name && at.value.pin === pin
const other = computed(() => wiring.value.entered.other ?? null)
</script>

<template>
  <section class="wiring">
    <ReadAt v-if="row && row.expected_v !== null && !closed" :what="`Black on pack minus, red on pin ${row.pin} of ${at!.connector}${row.wire ? `, the ${row.wire} wire` : ''}`" :label="`pin ${row.pin} reads, V`" :expected="row.expected_v ?? null" :most="60" :probes="row.tap === null || row.tap === undefined ? null : { at: 'taps', black: 0, red: row.tap }" auto :busy="busy" :keep="read" />
    <p v-else-if="wiring.next_pin === null" class="whole">Every pin is read, and right.</p>
    <p v-if="wiring.stop" class="error" role="alert">{{ wiring.stop }}</p>
    <p v-if="refusal ?? refused" class="error" role="alert">{{ (refusal ?? refused)!.message }}</p>
    <p v-if="!wiring.connectors.length" class="muted">This pack has no balance wires: two leads, and perhaps a sensor. Take in says what it has.</p>
    <table v-for="c in wiring.connectors" :key="c.name">
      <caption>{{ c.name }}</caption>
      <thead><tr><th>Pin</th><th>Wire</th><th>Belongs to</th><th class="number">expect, V</th><th class="number">within</th><th class="number">reads, V</th><th v-if="other && c === wiring.connectors[0]" class="number">other board wants, V</th></tr></thead>
      <tbody>
        <tr v-for="w in c.rows" :key="w.pin" :class="{ at: mine(c.name, w.pin), odd: w.wrong }">
          <td><button type="button" class="pin mono" :aria-pressed="mine(c.name, w.pin)" :aria-label="`pin ${w.pin} of ${c.name}`" @click="picked = { connector: c.name, pin: w.pin }">{{ w.pin }}</button></td>
          <td>{{ w.wire || '–' }}</td><td>{{ w.says }}</td><td class="number">{{ volts(w.expected_v, 2) }}</td><td class="number">{{ w.expected_v === null ? '' : `±${(w.within_v * 1000).toFixed(0)} mV` }}</td>
          <td class="number">{{ w.read_v === null ? '' : volts(w.read_v, 2) }} <template v-if="w.read_v !== null">{{ w.wrong ? '✗' : '✓' }}</template></td>
          <td v-if="other && c === wiring.connectors[0]" class="number">{{ w.sensor ? '' : w.other_wants_v === null ? 'nothing' : volts(w.other_wants_v, 2) }}{{ !w.sensor && w.tap !== w.other_tap ? ' ≠' : '' }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="wiring.other_says" class="other">{{ wiring.other_says }}</p>
    <details v-if="!closed">
      <summary>Wires as the hand sees them, two connectors, another board</summary>
      <div v-if="row" class="row">
        <KeptField :key="`${at!.connector}${row.pin}w`" :value="row.wire" :label="`Pin ${row.pin}: wire`" maxlength="30" placeholder="red, thick" @keep="(t) => change({ wire: t })" />
        <KeptField :key="`${at!.connector}${row.pin}t`" :value="row.sensor ?? (row.tap === null ? '' : String(row.tap))" label="goes to tap, or sensor" placeholder="3, or thermistor" @keep="goesTo" />
      </div>
      <p v-else class="muted">Touch a pin to say what is on it.</p>
      <div class="chips" role="group" aria-label="Connectors"><button type="button" class="chip" :aria-pressed="wiring.connectors.length === 1" @click="plugs(1)">one connector</button><button type="button" class="chip" :aria-pressed="wiring.connectors.length > 1" @click="plugs(2)">two connectors</button><ElButton @click="addPin">One pin more</ElButton></div>
      <div class="chips" role="group" aria-label="A board of another make"><span>Another board</span><button type="button" class="chip" :aria-pressed="!other" @click="tell({ other: null })">no</button><button v-for="(words, key) in ORDERS" :key="key" type="button" class="chip" :aria-pressed="other?.order === key" @click="tell({ other: { order: key, taps: key === 'as_told' ? typedTaps() : [] } })">{{ words }}</button></div>
      <NumberField v-if="other?.order === 'as_told'" v-model="taps" label="Its taps, pin by pin" many whole placeholder="0 1 2 – 3" @change="tell({ other: { order: 'as_told', taps: typedTaps() } })" />
    </details>
  </section>
</template>

<style scoped>
.wiring {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
}

caption {
  font-weight: 650;
  padding: 6px 0;
  text-align: left;
}

.pin {
  background: none;
  border: 1px solid var(--petrol);
  color: var(--petrol);
  cursor: pointer;
  font-size: 17px;
  min-height: 44px;
  min-width: 44px;
}

.at .pin {
  border-color: var(--copper);
  box-shadow: inset 0 -4px 0 var(--copper);
  color: var(--ink);
}

.row {
  display: grid;
  gap: 8px 12px;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
}

.chips {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 8px 0;
}

.other {
  border-left: 4px solid var(--copper);
  padding-left: 10px;
}

.whole {
  font-size: 20px;
  font-weight: 650;
}
</style>
