<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient } from '@/api/queries'
import { sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import TextField from '@/forms/TextField.vue'
import Choice from '@/forms/Choice.vue'

/** What the shop charges and bleeds single groups with: the channels that a levelling is planned over. */
type Kind = NonNullable<Schemas['Channel']['kind']>
const KINDS: Record<Kind, string> = { single: 'one group at a time', harness: 'all groups by the plug', bleed: 'a resistor across one group' }
const { data: channels } = useQuery({ queryKey: ['channels'], queryFn: () => settled(client.GET('/api/channels')) })
const { data: instruments } = useQuery({ queryKey: ['instruments'], queryFn: () => settled(client.GET('/api/instruments')) })
const supplies = computed(() => (instruments.value ?? []).map((i) => i.entered).filter((i) => i.kind === 'supply' || i.kind === 'cell_charger'))
const named = (id: number) => instruments.value?.find((i) => i.entered.id === id)?.entered.name ?? 'that is gone'
const { act, busy, refusal } = useAct()
const blank = () => ({ name: '', kind: 'single' as Kind, max: '', min: '', balance: '', ohm: '', watts: '', isolated: false, stops: true, instrument: null as number | null })
const form = ref(blank())
const keep = (list: unknown) => list && queryClient.setQueryData(['channels'], list)
async function tell() {
  const f = form.value
  const charges = f.kind !== 'bleed'
  const body = {
    name: f.name.trim(), kind: f.kind, isolated: f.isolated, stops: f.stops, lead_ohm: 0, max_a: charges ? sent(f.max, 'A') : null, min_a: charges ? (sent(f.min, 'A') ?? 0) : 0,
    balance_a: f.kind === 'harness' ? sent(f.balance, 'A') : null, ohm: charges ? null : sent(f.ohm, 'Ω'), watts: charges ? null : sent(f.watts, 'W'), instrument: f.kind === 'single' ? f.instrument : null,
  } as Schemas['ShopChannel']
  const list = await act(() => settled(client.POST('/api/channels', { body })))
  keep(list)
  if (list) form.value = blank()
}
const gone = async (name: string) => keep(await act(() => settled(client.POST('/api/channels/gone', { body: { name } }))))
function change(c: Schemas['ShopChannel']) {
  const show = (v: number | null | undefined) => (v === null || v === undefined || v === 0 ? '' : String(v))
  form.value = { name: c.name, kind: c.kind ?? 'single', max: show(c.max_a), min: show(c.min_a), balance: show(c.balance_a), ohm: show(c.ohm), watts: show(c.watts), isolated: c.isolated ?? true, stops: c.stops ?? true, instrument: c.instrument ?? null }
}
function says(c: Schemas['ShopChannel']): string {
  if (c.kind === 'bleed') return `${c.ohm} Ω${c.watts ? `, takes at most ${c.watts} W` : ''}`
  const ends = c.stops ? 'stops by itself' : 'does not stop by itself'
  return `${c.min_a ? `${c.min_a} to ` : 'up to '}${c.max_a} A${c.kind === 'harness' ? `, balances ${c.balance_a} A` : ''}, ${c.isolated ? 'isolated' : 'not isolated'}, ${ends}${c.instrument ? `; is the instrument ${named(c.instrument)}` : ''}`
}
const shown = computed(() => (['name', 'max_a', 'min_a', 'balance_a', 'ohm', 'watts'] as const).filter((f) => refusal.value?.on(f)))
</script>

<template>
  <section class="channels">
    <h2>What charges and bleeds groups</h2>
    <p v-if="channels && !channels.length" class="muted">None entered yet. Level plans with them: chargers and supplies for one group, a charger on the plug, a resistor.</p>
    <ul>
      <li v-for="c in channels ?? []" :key="c.name"><span><strong>{{ c.name }}</strong>: {{ KINDS[c.kind ?? 'single'] }}, {{ says(c) }}</span><span class="acts"><ElButton size="small" @click="change(c)">Change</ElButton><ElButton size="small" :loading="busy" :aria-label="`Take off the list: ${c.name}`" @click="gone(c.name)">Take off the list</ElButton></span></li>
    </ul>
    <form @submit.prevent="tell">
      <Choice label="The channel serves" :options="KINDS" :chosen="(key) => form.kind === key" @choose="(key) => (form.kind = key)" />
      <div class="line">
        <TextField v-model="form.name" label="Name of the channel" :error="refusal?.on('name')" maxlength="60" placeholder="small charger" />
        <template v-if="form.kind !== 'bleed'">
          <NumberField v-model="form.max" label="Most it gives" unit="A" :error="refusal?.on('max_a')" />
          <NumberField v-model="form.min" label="Least it holds" unit="A" :error="refusal?.on('min_a')" placeholder="0" />
          <NumberField v-if="form.kind === 'harness'" v-model="form.balance" label="Balances" unit="A" :error="refusal?.on('balance_a')" />
        </template>
        <template v-else>
          <NumberField v-model="form.ohm" label="Ohm" bare unit="Ω" :error="refusal?.on('ohm')" />
          <NumberField v-model="form.watts" label="Takes at most" unit="W" :error="refusal?.on('watts')" placeholder="5" />
        </template>
      </div>
      <div v-if="form.kind !== 'bleed'" class="chips"><button type="button" class="chip" :aria-pressed="form.isolated" @click="form.isolated = !form.isolated">its output is isolated</button><button type="button" class="chip" :aria-pressed="form.stops" @click="form.stops = !form.stops">it stops by itself</button></div>
      <div v-if="form.kind === 'single' && supplies.length" class="chips" role="group" aria-label="Which instrument it is"><button type="button" class="chip" :aria-pressed="form.instrument === null" @click="form.instrument = null">switched by hand</button><button v-for="s in supplies" :key="s.id" type="button" class="chip" :aria-pressed="form.instrument === s.id" @click="form.instrument = s.id">it is {{ s.name }}</button></div>
      <p class="muted">Isolated only if its sheet says so: two outputs that share a minus or an earth short the groups between their clips.</p>
      <div><ElButton type="primary" native-type="submit" :loading="busy">Add the channel</ElButton></div>
      <p v-if="refusal && !shown.length" class="error" role="alert">{{ refusal.message }}</p>
    </form>
  </section>
</template>

<style scoped>
.channels,
form {
  display: grid;
  gap: 10px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: center;
  border-bottom: 1px solid var(--rule-soft);
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  justify-content: space-between;
  min-height: 48px;
}

.acts {
  display: flex;
  gap: 12px;
}

.line {
  display: grid;
  gap: 8px 12px;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
}
</style>
