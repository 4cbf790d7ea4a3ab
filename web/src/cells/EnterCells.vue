<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import FieldRow from '@/bench/FieldRow.vue'
import { quantity, sent, sentMilliohms } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useAnew } from './useCells'
import FileButton from '@/forms/FileButton.vue'
import TextField from '@/forms/TextField.vue'
import Choice from '@/forms/Choice.vue'

/** Cells that come in, of a type in the catalogue; and the catalogue itself. */
const props = defineProps<{ types: Schemas['CellType'][]; name?: string }>()
const emit = defineEmits<{ entered: [string[]] }>()
const ORIGINS: Record<Schemas['NewLot']['origin'], string> = { new: 'new', reclaimed: 'reclaimed', harvested: 'harvested' }
const anew = useAnew()
const { data: terms } = useTermsQuery()
const lot = useAct()
const kind = useAct()
const text = ref({ type: props.types[0]?.name ?? '', name: props.name ?? '', count: '1', first: '1', donor: '', price: '', box: '', row: '', came: '' })
const origin = ref<Schemas['NewLot']['origin']>('reclaimed')
const typing = ref(false)
const of = ref({ name: '', size: '', chemistry: 'li_oxide' as Schemas['CellType']['chemistry'], rated: '', charge: '', discharge: '', peak: '', ohm: '', price: '' })
const kept = ref('')
const names = computed(() => {
  const n = quantity(text.value.count) ?? 1
  const first = quantity(text.value.first) ?? 1
  if (n <= 1) return text.value.name
  const width = String(first + n - 1).length
  const word = (k: number) => `${text.value.name}${String(k).padStart(width, '0')}`
  return `${word(first)} to ${word(first + n - 1)}`
})

async function enter() {
  const t = text.value
  const body = {
    type: t.type, name: t.name, count: sent(t.count) as number, first: sent(t.first) as number, origin: origin.value,
    donor: t.donor, price: sent(t.price, 'money'), box: t.box, row: t.row, came_on: t.came || null,
  } as Schemas['NewLot']
  const found = await lot.act(() => settled(client.POST('/api/cells', { body })))
  if (!found) return
  kept.value = found.names.length === 1 ? `${found.names[0]} is in the drawer.` : `${found.names.length} cells are in the drawer, ${found.names[0]} to ${found.names.at(-1)}.`
  await anew()
  emit('entered', found.names)
}
async function enterType() {
  const t = of.value
  const body = {
    name: t.name, size: t.size, chemistry: t.chemistry, rated_ah: sent(t.rated, 'Ah') as number, charge_a: sent(t.charge, 'A'), discharge_a: sent(t.discharge, 'A'),
    peak_a: sent(t.peak, 'A'), ohm: sentMilliohms(t.ohm), price: sent(t.price, 'money'),
  } as Schemas['CellType']
  if (!(await kind.act(() => settled(client.POST('/api/cells/types', { body }))))) return
  text.value.type = t.name
  typing.value = false
  await anew()
}
const found = ref<Schemas['Kept'] | null>(null)
async function bring(file: File) {
  const body = { text: await file.text() }
  found.value = await kind.act(() => settled(client.POST('/api/cells/types/import', { body })))
  await anew()
}
</script>

<template>
  <section class="enter">
    <form class="lot" @submit.prevent="enter">
      <h2>Cells that came in</h2>
      <FieldRow label="Type" :error="lot.refusal.value?.on('type')">
        <template #default="{ id }"><ElSelect :id="id" v-model="text.type" filterable><ElOption v-for="t in types" :key="t.name" :value="t.name" :label="`${t.name}, ${t.rated_ah} Ah`" /></ElSelect></template>
      </FieldRow>
      <button type="button" class="linklike" @click="typing = !typing">{{ typing ? 'no other type' : 'another type' }}</button>
      <div class="two">
        <TextField v-model="text.name" label="Called" :error="lot.refusal.value?.on('name')" maxlength="36" placeholder="K-" />
        <NumberField v-model="text.count" label="How many" whole :error="lot.refusal.value?.on('count')" />
        <NumberField v-model="text.first" label="Numbered from" whole :error="lot.refusal.value?.on('first')" />
      </div>
      <p class="muted">{{ names || 'a name that stays, written on the cell' }}</p>
      <Choice label="What they are" :options="ORIGINS" :chosen="(key) => origin === key" @choose="(key) => (origin = key)" />
      <div class="two">
        <TextField v-model="text.donor" label="From" :error="lot.refusal.value?.on('donor')" maxlength="80" placeholder="pack or dealer" />
        <NumberField v-model="text.price" label="Price of each" unit="money" :error="lot.refusal.value?.on('price')" />
        <TextField v-model="text.came" label="Came on" :error="lot.refusal.value?.on('came_on')" type="date" />
        <TextField v-model="text.box" label="Box" maxlength="30" />
        <TextField v-model="text.row" label="Row" maxlength="30" />
      </div>
      <ElButton type="primary" native-type="submit" :loading="lot.busy.value" :disabled="!text.name.trim() || !text.type">Put them in the drawer</ElButton>
      <p v-if="kept" role="status">{{ kept }}</p>
      <p v-if="lot.refusal.value && !['type', 'name', 'count', 'first', 'price'].some((f) => lot.refusal.value!.on(f))" class="error" role="alert">{{ lot.refusal.value.message }}</p>
    </form>
    <form v-if="typing || !types.length" class="lot" @submit.prevent="enterType">
      <h2>A type, from its data sheet</h2>
      <TextField v-model="of.name" label="Name" :error="kind.refusal.value?.on('name')" maxlength="60" />
      <div class="two">
        <TextField v-model="of.size" label="Size" maxlength="30" placeholder="18650" />
        <FieldRow label="Chemistry"><template #default="{ id }"><ElSelect :id="id" v-model="of.chemistry"><ElOption v-for="c in terms?.chemistries ?? []" :key="c.key" :value="c.key" :label="c.name" /></ElSelect></template></FieldRow>
        <NumberField v-model="of.rated" label="Rated" unit="Ah" :error="kind.refusal.value?.on('rated_ah')" />
        <NumberField v-model="of.ohm" label="New" unit="mΩ" :error="kind.refusal.value?.on('ohm')" />
        <NumberField v-model="of.charge" label="Charge" unit="A" :error="kind.refusal.value?.on('charge_a')" />
        <NumberField v-model="of.discharge" label="Lasting" unit="A" :error="kind.refusal.value?.on('discharge_a')" />
        <NumberField v-model="of.peak" label="Peak" unit="A" :error="kind.refusal.value?.on('peak_a')" />
        <NumberField v-model="of.price" label="Price, new" unit="money" :error="kind.refusal.value?.on('price')" />
      </div>
      <ElButton type="primary" native-type="submit" :loading="kind.busy.value" :disabled="!of.name.trim()">Enter the type</ElButton>
      <p v-if="kind.refusal.value" class="error" role="alert">{{ kind.refusal.value.message }}</p>
      <div class="line"><a href="/api/cells/types.csv" download>Catalogue as CSV</a><FileButton quiet label="Bring in a catalogue" accept=".csv,text/csv" @chosen="bring" /></div>
      <p v-if="found" role="status">{{ found.kept }} types kept<template v-if="found.bad.length">; not kept: {{ found.bad.slice(0, 4).map((b) => `row ${b.row}: ${b.because}`).join('; ') }}</template>.</p>
    </form>
  </section>
</template>

<style scoped>
.enter,
.lot {
  display: grid;
  gap: 10px;
}

.enter {
  gap: 22px;
}

.lot > .linklike {
  justify-self: start;
  margin: 0;
}

.two {
  display: grid;
  gap: 8px 10px;
  grid-template-columns: repeat(2, minmax(0, 1fr));
}

.chips,
.line {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
}

</style>
