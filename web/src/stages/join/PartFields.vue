<script setup lang="ts">
import { computed, ref, toRef } from 'vue'
import type { Schemas } from '@/api/client'
import { useMoney } from '@/composables/useMoney'
import Choice from '@/forms/Choice.vue'
import NumberField from '@/forms/NumberField.vue'
import { quantity, sent, wrongWith } from '@/forms/quantity'
import TextField from '@/forms/TextField.vue'
import { type Block, useKeepBlock } from './useBlock'

/** What is in the pack beside cells, board and wires: each part with its place, kept or new; the lists, the order and the quote speak of it. */
type Part = Schemas['PackPart']
const props = defineProps<{ block: Block; closed: boolean; wired: boolean }>()
const { keep, busy, refusal } = useKeepBlock(toRef(props, 'block'))
const { money } = useMoney()
const KINDS: Record<Part['part'], string> = {
  riser: 'riser', spacer: 'spacer', weight: 'weight', sheet: 'insulating sheet', top_piece: 'top piece', springs: 'springs', sensor: 'sensor', tape: 'tape', shrink: 'shrink sleeve', glue: 'glue', other: 'something else',
}
const USED_UP: Part['part'][] = ['tape', 'shrink', 'glue']
const parts = computed(() => (props.block.entered.parts ?? []) as Part[])
const fresh = ref({ part: null as Part['part'] | null, name: '', where: '', count: '', price: '', use: 'kept' as Part['use'] })
const wants = computed(() => fresh.value.part !== null && (fresh.value.part !== 'other' || fresh.value.name.trim() !== ''))
async function add() {
  const f = fresh.value
  // What is no number is told at its field, and nothing is sent.
  if (busy.value || !f.part || !wants.value || wrongWith(f.count, undefined, true) || wrongWith(f.price, 'money')) return
  const part = { part: f.part, name: f.name.trim(), where: f.where.trim(), count: quantity(f.count) === null ? 1 : sent(f.count), price: f.price.trim() ? sent(f.price, 'money') : null, use: USED_UP.includes(f.part) ? 'new' : f.use } as Part
  if (await keep((entered) => ({ parts: [...entered.parts!, part] }))) fresh.value = { part: null, name: '', where: '', count: '', price: '', use: 'kept' }
}
// A refusal names the part by its place in the list: the one that is being added is the last.
const on = (field: string) => refusal.value?.on(`parts.${parts.value.length}.${field}`) ?? refusal.value?.on(field)
const line = (p: Part) => `${p.name || KINDS[p.part]}${p.where ? `, ${p.where}` : ''}`
const change = (k: number, how: Partial<Part> | null) => keep((entered) => ({ parts: entered.parts!.flatMap((p, n) => (n !== k ? [p] : how ? [{ ...p, ...how }] : [])) }))
</script>

<template>
  <details>
    <summary>Parts of the pack<template v-if="parts.length">: {{ parts.map(line).join('; ') }}</template></summary>
    <ul v-if="parts.length" class="parts">
      <li v-for="(p, k) in parts" :key="line(p)">
        <strong>{{ line(p) }}</strong><span v-if="(p.count ?? 1) > 1">{{ p.count }} pieces</span><span v-if="p.price" class="muted">{{ money(p.price) }} each</span>
        <Choice v-if="!USED_UP.includes(p.part)" :label="`${line(p)}: kept or new`" :options="{ kept: 'the old one is kept', new: 'a new one goes in' }" :chosen="(key) => p.use === key" :disabled="closed || busy" @choose="(key) => change(k, { use: key })" />
        <span v-else class="muted">used up: a new one goes in</span>
        <button v-if="!closed" type="button" class="linklike" :disabled="busy" @click="change(k, null)">not in it</button>
      </li>
    </ul>
    <template v-if="!closed">
      <Choice label="Another part" lead="Another" :options="KINDS" :chosen="(key) => fresh.part === key" @choose="(key) => (fresh.part = key)" />
      <form v-if="fresh.part" class="row" @submit.prevent="add">
        <TextField v-model="fresh.name" label="Its name" maxlength="60" :placeholder="fresh.part === 'other' ? 'what it is' : 'as its kind'" :error="on('name')" />
        <TextField v-model="fresh.where" label="Where it sits" maxlength="80" placeholder="under the block" />
        <NumberField v-model="fresh.count" label="How many" whole placeholder="1" :error="on('count')" />
        <NumberField v-model="fresh.price" label="Price of one" unit="money" placeholder="not known" :error="on('price')" />
        <Choice v-if="!USED_UP.includes(fresh.part)" label="Kept or new" :options="{ kept: 'the old one is kept', new: 'a new one goes in' }" :chosen="(key) => fresh.use === key" @choose="(key) => (fresh.use = key)" />
        <ElButton native-type="submit" :disabled="!wants" :loading="busy">Add it</ElButton>
      </form>
      <div class="chips" role="group" aria-label="How it is built up">
        <button type="button" class="chip" :disabled="busy" :aria-pressed="block.entered.harness" @click="keep({ harness: !block.entered.harness })">a temporary harness for one levelling charge</button>
        <button v-if="wired && block.work === 'drop_group'" type="button" class="chip" :disabled="busy" :aria-pressed="block.entered.housing === 'new'" @click="keep({ housing: block.entered.housing === 'new' ? 'kept' : 'new' })">a new balance housing with fewer pins</button>
      </div>
    </template>
    <p v-if="refusal && !['name', 'count', 'price'].some((f) => on(f))" class="error" role="alert">{{ refusal.message }}</p>
  </details>
</template>

<style scoped>
.parts {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}

.parts li {
  align-items: center;
  border-bottom: 1px solid var(--rule-soft);
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  padding: 6px 0;
}

.row {
  align-items: end;
  display: grid;
  gap: 8px 12px;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  margin: 8px 0;
}
</style>
