<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { useQuery } from '@tanstack/vue-query'
import { ref, shallowRef } from 'vue'
import { RouterLink } from 'vue-router'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient, useTermsQuery } from '@/api/queries'
import OpenFrame from '@/bench/OpenFrame.vue'
import { day } from '@/composables/format'
import { sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import FieldRow from '@/bench/FieldRow.vue'
import InstrumentRow from './InstrumentRow.vue'
import PortList from './PortList.vue'
import ReferenceParts from './ReferenceParts.vue'
import ShopChannels from './ShopChannels.vue'
import TextField from '@/forms/TextField.vue'

/** The shop's own instruments: entered by address, each with its accuracy, its last check and its live value. */
type Kind = Schemas['NewInstrument']['kind']
const { data: terms } = useTermsQuery()
// What they show is told as it changes; asking now and then says that somebody looks, for else they are left alone.
const LOOKS_MS = 4000
const { data: found } = useQuery({ queryKey: ['instruments'], queryFn: () => settled(client.GET('/api/instruments')), refetchInterval: LOOKS_MS })
const { act, busy, refusal } = useAct()
const blank = () => ({ kind: 'meter' as Kind, name: '', host: '', port: '5025', percent: '0.05', digits: '3', resolution_v: '0.001' })
const form = ref(blank())
const number = (text: string, unit?: 'V' | '%') => sent(text, unit) as number
const keep = (list: unknown) => list && queryClient.setQueryData(['instruments'], list)

async function add() {
  const f = form.value
  const body = { kind: f.kind, name: f.name, drives: false, speaks: 'scpi' as const, address: { host: f.host.trim(), port: number(f.port) }, accuracy: { percent: number(f.percent, '%'), digits: number(f.digits), resolution_v: number(f.resolution_v, 'V'), ranges: [] } }
  const list = await act(() => settled(client.POST('/api/instruments', { body })))
  keep(list)
  if (list) form.value = blank()
}

// What the program may switch on a group.
const SWITCHED = new Set<Kind>(['supply', 'cell_charger', 'load'])
const using = shallowRef<number | null>(null)
const by = ref('')
async function use(entered: Schemas['InstrumentFact']) {
  const list = await act(() => settled(client.POST('/api/instruments/{instrument_id}/use', { params: { path: { instrument_id: entered.id } }, body: { drives: !entered.drives, by: by.value } })))
  keep(list)
  if (list) using.value = null
}
const checking = shallowRef<number | null>(null)
const check = ref({ reference: '', shown: '' })
async function record(id: number) {
  const list = await act(() =>
    settled(client.POST('/api/instruments/{instrument_id}/check', { params: { path: { instrument_id: id } }, body: { reference: number(check.value.reference), shown: number(check.value.shown) } })),
  )
  keep(list)
  if (list) checking.value = null
}
const remove = async (id: number) => keep(await act(() => settled(client.POST('/api/instruments/{instrument_id}/remove', { params: { path: { instrument_id: id } } }))))

const taught = (entered: Schemas['InstrumentFact']) => (entered.words?.compared?.includes('volts') || entered.words?.compared?.includes('celsius')) && (entered.words.holds === 'says' || entered.words.holds === 'stops')

function checked(entered: Schemas['InstrumentFact']): string {
  const last = entered.last_check
  if (!last) return 'never checked against a reference'
  const off = last.shown - last.reference
  return `checked ${day(last.at)}: ${off < 0 ? '−' : '+'}${Math.abs(off).toPrecision(2)} at ${last.reference}`
}
</script>

<template>
  <OpenFrame title="Instruments" under="Of this shop">
    <main class="shop">
      <h1>Instruments of the shop</h1>
      <p v-if="found && !found.length" class="muted">None entered. One with a serial or USB lead is found among the ports below; one on the network shows its address in its own menu: enter that.</p>
      <ul>
        <InstrumentRow v-for="i in found ?? []" :key="i.entered.id" :instrument="i.now" :checked="checked(i.entered)">
          <div class="acts">
            <ElButton size="small" @click="checking = checking === i.entered.id ? null : i.entered.id">Check against a reference</ElButton>
            <RouterLink v-if="i.entered.speaks === 'lines'" :to="`/instruments/${i.entered.id}/teach`" class="teach">{{ taught(i.entered) ? 'Teach it again' : `Teach it: ${i.entered.kind === 'thermometer' ? 'two' : 'three'} readings` }}</RouterLink>
            <ElButton v-if="SWITCHED.has(i.entered.kind)" size="small" @click="using = using === i.entered.id ? null : i.entered.id">{{ i.entered.drives ? 'It is switched here: only read it' : 'It is only read: let it be switched' }}</ElButton>
            <ElButton size="small" :loading="busy" @click="remove(i.entered.id)">Take off the list</ElButton>
          </div>
          <form v-if="using === i.entered.id" class="check" @submit.prevent="use(i.entered)">
            <p>{{ i.entered.drives ? `${i.entered.name} is read and no more from then on.` : `The program may then switch ${i.entered.name} on in ${i.entered.kind === 'load' ? 'Prove' : 'Level'}: set, limited and read back first, and off by itself. Its plug stays within reach.` }}</p>
            <TextField v-model="by" label="Decided by" :error="refusal?.on('by')" maxlength="60" />
            <ElButton type="primary" native-type="submit" :loading="busy">{{ i.entered.drives ? 'Only read it' : 'Let it be switched' }}</ElButton>
          </form>
          <form v-if="checking === i.entered.id" class="check" @submit.prevent="record(i.entered.id)">
            <NumberField v-model="check.reference" label="The reference is" :error="refusal?.on('reference')" />
            <NumberField v-model="check.shown" label="It shows" :error="refusal?.on('shown')" />
            <ElButton type="primary" native-type="submit" :loading="busy">Record the check</ElButton>
          </form>
        </InstrumentRow>
      </ul>
      <PortList />
      <details class="network">
        <summary>Enter an instrument on the network</summary>
        <form class="add" @submit.prevent="add">
          <div class="line">
            <FieldRow label="What it is"><template #default="{ id }"><ElSelect :id="id" v-model="form.kind" aria-label="What it is"><ElOption v-for="k in terms?.instrument_kinds ?? []" :key="k.key" :value="k.key" :label="k.name" /></ElSelect></template></FieldRow>
            <TextField v-model="form.name" label="Called" :error="refusal?.on('name')" maxlength="40" />
          </div>
          <div class="line">
            <TextField v-model="form.host" label="Address, in numbers" :error="refusal?.on('address.host')" placeholder="192.168.1.40" />
            <NumberField v-model="form.port" label="Port" whole :error="refusal?.on('address.port')" />
          </div>
          <div v-if="form.kind === 'meter'" class="line three">
            <NumberField v-model="form.percent" label="± percent of reading" bare unit="%" :error="refusal?.on('accuracy.percent')" />
            <NumberField v-model="form.digits" label="± digits" :error="refusal?.on('accuracy.digits')" />
            <NumberField v-model="form.resolution_v" label="one digit is" unit="V" :error="refusal?.on('accuracy.resolution_v')" />
          </div>
          <div><ElButton type="primary" native-type="submit" :loading="busy">Enter the instrument</ElButton></div>
          <p v-if="refusal && !['name', 'address', 'accuracy', 'reference', 'shown'].some((f) => refusal!.on(f))" class="error" role="alert">{{ refusal.message }}</p>
        </form>
      </details>
      <ShopChannels />
      <ReferenceParts />
    </main>
    <aside class="side">
      <h2>How instruments are spoken to</h2>
      <p>In SCPI, the plain command set that bench instruments share: over a serial or USB lead, or a network socket. A hand meter that only sends lines is listened to. Only ports and addresses that you entered are ever opened, on this machine or in a private network.</p>
      <p class="muted">A lead that is pulled and put in elsewhere is found by its own number. One that was on when it was pulled rings until it is seen off: switch it off by hand.</p>
      <p class="muted">An instrument is read, not switched, until you let it be: a supply or single-cell charger may then be a channel that Level switches, and a load is switched in Prove. One that is silent, slow or answers nonsense is marked here and delays nothing else; it is tried again by itself.</p>
      <p class="muted">Simulated instruments for practice belong to a job: open the job and choose Instruments under its figure.</p>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.shop {
  display: grid;
  gap: 16px;
  grid-auto-rows: max-content;
  min-height: 0;
  overflow: auto;
  padding: 24px 28px;
}

ul {
  list-style: none;
  margin: 0;
  max-width: 820px;
  padding: 0;
}

.acts,
.check {
  align-items: end;
  display: flex;
  gap: 12px;
  width: 100%;
}

.network summary {
  color: var(--petrol);
  cursor: pointer;
  font-weight: 650;
  padding: 10px 0;
}

.teach {
  align-self: center;
  color: var(--copper);
  font-weight: 650;
}

.add {
  display: grid;
  gap: 10px;
  max-width: 640px;
}

.line {
  display: grid;
  gap: 14px;
  grid-template-columns: 1fr 1fr;
}

.three {
  grid-template-columns: repeat(3, 1fr);
}

.side {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  display: grid;
  gap: 10px;
  grid-auto-rows: max-content;
  min-height: 0;
  overflow: auto;
  padding: 24px 20px;
}
</style>
