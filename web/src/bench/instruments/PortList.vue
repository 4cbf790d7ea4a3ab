<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, onBeforeUnmount, ref, shallowRef } from 'vue'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { queryClient, useTermsQuery } from '@/api/queries'
import FieldRow from '@/bench/FieldRow.vue'
import { useAct } from '@/composables/useAct'
import NumberField from '@/forms/NumberField.vue'
import { sent } from '@/forms/quantity'
import TextField from '@/forms/TextField.vue'

/** The ports of this machine: one that somebody chooses is tried, speed by speed, and what speaks there is entered. */
type Port = Schemas['PortHere']
type Tried = Schemas['TriedPort']
const LOOKS_MS = 3000
const { data: terms } = useTermsQuery()
const { data: here } = useQuery({ queryKey: ['ports'], queryFn: () => settled(client.GET('/api/ports')), refetchInterval: LOOKS_MS })
const { act, busy, refusal } = useAct()
const keep = (found: unknown) => found && queryClient.setQueryData(['ports'], found)

const trying = shallowRef<{ path: string; step: number; of: number; baud: number } | null>(null)
const found = shallowRef<{ port: Port; tried: Tried } | null>(null)
const nothing = shallowRef<string | null>(null)
const problem = shallowRef<string | null>(null)
let stopped = false
async function tryPort(port: Port) {
  const bauds = here.value?.bauds ?? []
  stopped = false
  found.value = nothing.value = problem.value = null
  let noise: boolean
  try {
    noise = await speeds(port, bauds)
  } finally {
    trying.value = null
  }
  if (!found.value && !problem.value && !stopped) nothing.value = noise ? `${port.path} sends something, but no text at any speed: its maker may have a protocol of its own.` : `Nothing speaks on ${port.path}: is it switched on, and its sending or remote control too?`
}
/** Whether anything came that was no text. */
async function speeds(port: Port, bauds: Schemas['PortsHere']['bauds']): Promise<boolean> {
  let noise = false
  for (const [k, baud] of bauds.entries()) {
    trying.value = { path: port.path, step: k + 1, of: bauds.length, baud }
    try {
      const tried = await settled(client.POST('/api/ports/try', { body: { path: port.path, baud } }))
      noise ||= tried.noise
      if (tried.speaks && !stopped) {
        found.value = { port, tried }
        form.value = blank(tried)
        break
      }
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      problem.value = error.message
      break
    }
    if (stopped) break
  }
  return noise
}
const stop = () => (stopped = true)
// Who leaves the page leaves the port.
onBeforeUnmount(stop)

const blank = (tried: Tried) => ({ kind: (tried.speaks === 'lines' ? 'meter' : 'supply') as Schemas['NewInstrument']['kind'], name: '', percent: '0.5', digits: '2', resolution_v: '0.001' })
const form = ref(blank({ speaks: 'lines' } as Tried))
const kinds = computed(() => (terms.value?.instrument_kinds ?? []).filter((k) => found.value?.tried.speaks !== 'lines' || k.key === 'meter' || k.key === 'thermometer'))
const number = (text: string, unit?: 'V' | '%') => sent(text, unit) as number
async function enter() {
  const { port, tried } = found.value!
  const f = form.value
  const body = {
    kind: f.kind,
    name: f.name,
    drives: false,
    speaks: tried.speaks!,
    address: port.speaks === 'usb' ? { device: port.path, usb: port.usb, serial: port.serial } : { path: port.path, usb: port.usb, serial: port.serial, baud: tried.baud, ends: tried.ends },
    accuracy: { percent: number(f.percent, '%'), digits: number(f.digits), resolution_v: number(f.resolution_v, 'V'), ranges: [] },
  }
  done(await act(() => settled(client.POST('/api/instruments', { body }))))
}
function done(list: unknown) {
  if (!list) return
  queryClient.setQueryData(['instruments'], list)
  void queryClient.invalidateQueries({ queryKey: ['ports'] })
  found.value = null
}
const usb = (port: Port) => {
  found.value = { port, tried: { speaks: 'scpi', baud: 9600, ends: 'lf', identity: port.name, lines: [], noise: false, says: 'served by the system’s own driver' } }
  form.value = blank(found.value.tried)
}
async function plug(plugged: boolean) {
  keep(await act(() => settled(client.POST('/api/ports/practice', { body: { plugged } }))))
}
const practising = computed(() => (here.value?.ports ?? []).some((p) => p.practice))
const numbers = (p: Port) => [p.path, p.usb && `USB ${p.usb}`, p.serial && `number ${p.serial}`].filter(Boolean).join(' · ')
</script>

<template>
  <section class="ports" aria-label="Serial and USB ports">
    <h2>Serial and USB ports of this machine</h2>
    <p v-if="here && !here.ports.length" class="muted">Nothing is plugged in. A meter, supply or load with a serial or USB lead shows up here by itself.</p>
    <ul>
      <li v-for="p in here?.ports ?? []" :key="p.path">
        <span class="what"><strong>{{ p.name }}</strong> <span class="muted mono">{{ numbers(p) }}</span></span>
        <span v-if="p.instrument" class="muted">entered as {{ p.instrument }}</span>
        <span v-else-if="trying?.path === p.path" class="trying" role="status">Trying {{ trying.baud }} baud, {{ trying.step }} of {{ trying.of }} <button type="button" class="linklike" @click="stop">Stop trying</button></span>
        <ElButton v-else-if="p.speaks === 'usb'" size="small" :disabled="!!trying" @click="usb(p)">Enter it</ElButton>
        <ElButton v-else size="small" :disabled="!!trying" @click="tryPort(p)">Find out what speaks there</ElButton>
      </li>
    </ul>
    <p v-if="problem" class="error" role="alert">{{ problem }}</p>
    <p v-if="nothing" class="error" role="alert">{{ nothing }}</p>
    <form v-if="found" class="found" @submit.prevent="enter()">
      <h3>{{ found.port.name }}: {{ found.tried.says }}</h3>
      <pre v-if="found.tried.lines?.length" class="mono">{{ found.tried.lines.map((l) => l.text).join('\n') }}</pre>
      <p v-if="found.tried.speaks === 'lines'" class="muted">Its values are shown at once. They are taken by themselves once you have taught it: three readings, a minute.</p>
      <div class="line">
        <FieldRow label="What it is"><template #default="{ id }"><ElSelect :id="id" v-model="form.kind" aria-label="What is at the port"><ElOption v-for="k in kinds" :key="k.key" :value="k.key" :label="k.name" /></ElSelect></template></FieldRow>
        <TextField v-model="form.name" label="Called" :error="refusal?.on('name')" maxlength="40" />
      </div>
      <div v-if="form.kind === 'meter'" class="line three">
        <NumberField v-model="form.percent" label="± percent of reading" bare unit="%" :error="refusal?.on('accuracy.percent')" />
        <NumberField v-model="form.digits" label="± digits" :error="refusal?.on('accuracy.digits')" />
        <NumberField v-model="form.resolution_v" label="one digit is" unit="V" :error="refusal?.on('accuracy.resolution_v')" />
      </div>
      <div><ElButton type="primary" native-type="submit" :loading="busy">Enter what speaks there</ElButton> <button type="button" class="linklike" @click="found = null">Leave it</button></div>
    </form>
    <p v-if="refusal && !['name', 'accuracy'].some((f) => refusal!.on(f))" class="error" role="alert">{{ refusal.message }}</p>
    <p class="muted">No port is opened before you choose it, and one that answers nothing is asked one question only: who it is. <button type="button" class="linklike" :disabled="busy" @click="plug(!practising)">{{ practising ? 'Unplug the practice ports' : 'Plug in two practice ports: a hand meter and a supply' }}</button></p>
  </section>
</template>

<style scoped>
.ports {
  display: grid;
  gap: 10px;
  max-width: 820px;
}

ul {
  border-top: 1px solid var(--rule);
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: center;
  border-bottom: 1px solid var(--rule-soft);
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  min-height: 48px;
}

.what {
  flex: 1 1 300px;
}

.what .mono {
  font-size: 14px;
}

.found {
  border-left: 3px solid var(--copper);
  display: grid;
  gap: 10px;
  padding: 4px 0 4px 16px;
}

h3 {
  font-size: 17px;
  margin: 0;
}

pre {
  background: var(--sheet);
  margin: 0;
  padding: 8px 12px;
}

.line {
  display: grid;
  gap: 14px;
  grid-template-columns: 1fr 1fr;
}

.three {
  grid-template-columns: repeat(3, 1fr);
}
</style>
