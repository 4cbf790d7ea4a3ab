<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { RouterLink } from 'vue-router'
import { stagePath } from '@/router'
import { day, jobNumber } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import TextField from '@/forms/TextField.vue'
import Choice from '@/forms/Choice.vue'

/** Parts that are put in to see whether the fault goes, with what each was last proved by; and what the lamps mean. */
type What = Schemas['NewReference']['what']
const WHAT: Record<What, string> = { board: 'a board', pack: 'a pack', charger: 'a charger', tool: 'a tool', harness: 'a harness' }
const MEANS: Record<Schemas['NewBlink']['means'], string> = { temperature: 'temperature', cell: 'a cell', communication: 'no talk', unknown: 'not known' }
const cache = useQueryClient()
const { act, busy, refusal } = useAct()
const { data: parts } = useQuery({ queryKey: ['references'], queryFn: () => settled(client.GET('/api/references')) })
const { data: blinks } = useQuery({ queryKey: ['blinks'], queryFn: () => settled(client.GET('/api/blinks')) })
const part = ref<Schemas['NewReference']>({ what: 'board', name: '', revision: '' })
const blink = ref<Schemas['NewBlink']>({ pack: '', shows: '', means: 'temperature' })
const proving = ref<number | null>(null)
const by = ref('')

async function enter() {
  const found = await act(() => settled(client.POST('/api/references', { body: part.value })))
  if (!found) return
  cache.setQueryData(['references'], found)
  part.value = { ...part.value, name: '', revision: '' }
}
async function prove(id: number, sound: boolean) {
  const found = await act(() => settled(client.POST('/api/references/{reference_id}/checks', { params: { path: { reference_id: id } }, body: { sound, by: by.value } })))
  if (!found) return
  cache.setQueryData(['references'], found)
  proving.value = null
  by.value = ''
}
async function enterBlink() {
  const found = await act(() => settled(client.POST('/api/blinks', { body: blink.value })))
  if (!found) return
  cache.setQueryData(['blinks'], found)
  blink.value = { ...blink.value, shows: '' }
}
const stands = (p: Schemas['ReferencePart']) => (!p.proved_at ? 'never proved itself' : `${p.sound ? 'proved' : 'found at fault'} ${day(p.proved_at)} by ${p.proved_by}`)
</script>

<template>
  <section class="parts">
    <h2>Reference parts</h2>
    <p class="muted">A swap proves only as much as the part put in: same revision, and tested lately.</p>
    <ul>
      <li v-for="p in parts ?? []" :key="p.id">
        <span><strong>{{ p.name }}</strong> <span class="muted">{{ WHAT[p.what] }}{{ p.revision ? `, revision ${p.revision}` : '' }} · {{ stands(p) }} · {{ p.uses }} {{ p.uses === 1 ? 'swap' : 'swaps' }} since</span> <strong v-if="p.due" class="due">Prove it again: {{ p.due }}.</strong><span v-if="!p.sound && p.trusted_by?.length"> Open again: <RouterLink v-for="id in p.trusted_by" :key="id" :to="stagePath(id, 'judge')" class="again">job {{ jobNumber(id) }}</RouterLink></span></span>
        <button v-if="proving !== p.id" type="button" class="linklike" @click="proving = p.id">prove it</button>
        <form v-else class="line" @submit.prevent="prove(p.id, true)">
          <TextField v-model="by" label="By what" :error="refusal?.on('by')" maxlength="60" placeholder="a pump pack that runs" autofocus />
          <ElButton type="primary" native-type="submit" :loading="busy">It is sound</ElButton>
          <ElButton :loading="busy" @click="prove(p.id, false)">It is at fault</ElButton>
        </form>
      </li>
    </ul>
    <form class="line" @submit.prevent="enter">
      <Choice label="What it is" :options="WHAT" :chosen="(key) => part.what === key" @choose="(key) => (part.what = key)" />
      <TextField v-model="part.name" label="Its name" :error="refusal?.on('name')" maxlength="60" />
      <TextField v-model="part.revision" label="Revision" maxlength="40" />
      <ElButton native-type="submit" :loading="busy" :disabled="!part.name.trim()">Add it</ElButton>
    </form>
    <h2>Blink codes</h2>
    <ul>
      <li v-for="b in blinks ?? []" :key="b.id"><span><strong>{{ b.shows }}</strong> <span class="muted">{{ b.pack || 'any pack' }}</span></span><span>{{ MEANS[b.means] }}</span></li>
    </ul>
    <form class="line" @submit.prevent="enterBlink">
      <TextField v-model="blink.shows" label="The lamps show" :error="refusal?.on('shows')" maxlength="60" placeholder="four red, fast" />
      <TextField v-model="blink.pack" label="On packs named" maxlength="60" placeholder="any" />
      <Choice label="It means" :options="MEANS" :chosen="(key) => blink.means === key" @choose="(key) => (blink.means = key)" />
      <ElButton native-type="submit" :loading="busy" :disabled="!blink.shows.trim()">Add it</ElButton>
    </form>
  </section>
</template>

<style scoped>
.parts {
  display: grid;
  gap: 10px;
  margin-top: 18px;
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
  justify-content: space-between;
  min-height: 48px;
}

.due {
  color: var(--copper);
}

.again {
  margin-right: 8px;
}

.line {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px 14px;
}
</style>
