<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import FieldRow from '@/bench/FieldRow.vue'
import { useAct } from '@/composables/useAct'
import { useAnew } from './useCells'
import FileButton from '@/forms/FileButton.vue'
import { textOf } from '@/logs/textOf'
import TextField from '@/forms/TextField.vue'

/** A tester's file: what it holds is shown first, which column is what can be set right, then what is good of it is kept. */
defineProps<{ types: Schemas['CellType'][] }>()
const emit = defineEmits<{ kept: [string[]] }>()
const anew = useAnew()
const { act, busy, refusal } = useAct()
const text = shallowRef('')
const file = ref('')
const look = shallowRef<Schemas['LookedAt'] | null>(null)
const columns = ref<Record<string, number>>({})
const names = ref<Record<string, string>>({})
const enterAs = ref('')
const kept = shallowRef<Schemas['Kept'] | null>(null)

async function choose(of: File) {
  kept.value = null
  file.value = of.name
  text.value = await textOf(of)
  look.value = await act(() => settled(client.POST('/api/cells/look', { body: { text: text.value } })))
  columns.value = { ...(look.value?.columns ?? {}) } as Record<string, number>
  names.value = {}
}
const meaning = (column: number) => Object.entries(columns.value).find(([, at]) => at === column)?.[0] ?? ''
function mean(column: number, role: string) {
  const now = Object.fromEntries(Object.entries(columns.value).filter(([key, at]) => at !== column && key !== role))
  columns.value = role ? { ...now, [role]: column } : now
}
const log = computed(() => ['time_s', 'volts', 'amps'].every((role) => role in columns.value))
async function bring() {
  const cells = Object.fromEntries(Object.entries(names.value).filter(([, name]) => name.trim()))
  const enter_as = enterAs.value ? ({ type: enterAs.value, name: 'x', origin: 'reclaimed', donor: file.value.slice(0, 80) } as Schemas['NewLot']) : null
  const body = { text: text.value, columns: columns.value, cells, by: file.value.slice(0, 80), enter_as } as Schemas['TestFile']
  const found = await act(() => settled(client.POST('/api/cells/import', { body })))
  if (!found) return
  kept.value = found
  look.value = null
  await anew()
  emit('kept', found.cells)
}
</script>

<template>
  <section class="bring">
    <h2>Tests from a tester’s file</h2>
    <p class="muted">CSV, one row a cell or a log of many rows; columns of the open Battery Data Format are recognised, others can be chosen. Decimal point or comma.</p>
    <FileButton label="Choose the tester’s file" accept=".csv,.txt,.tsv,text/csv,text/plain" :busy="busy" @chosen="choose" />
    <form v-if="look" class="bring" @submit.prevent="bring">
      <p>{{ look.rows }} rows, {{ log ? 'a log of many rows a cell' : 'one row a cell' }}, decimal {{ look.decimal_comma ? 'comma' : 'point' }}{{ look.remembered ? '; columns as chosen last time' : '' }}.</p>
      <div class="columns">
        <div v-for="(name, i) in look.header" :key="i" class="column">
          <label :for="`column-${i}`"><strong>{{ name || '(no name)' }}</strong> <span class="muted mono">{{ look.first.map((row) => row[i]).filter(Boolean).slice(0, 2).join(', ') }}</span></label>
          <ElSelect :id="`column-${i}`" :model-value="meaning(i)" @update:model-value="mean(i, $event)"><ElOption value="" label="not used" /><ElOption v-for="(words, role) in look.roles" :key="role" :value="role" :label="words" /></ElSelect>
        </div>
      </div>
      <template v-if="look.unknown.length">
        <p>{{ look.unknown.length }} {{ look.unknown.length === 1 ? 'name is' : 'names are' }} of no cell in the drawer: {{ look.unknown.slice(0, 5).join(', ') }}{{ look.unknown.length > 5 ? ' and more' : '' }}.</p>
        <FieldRow label="Enter them as cells of"><template #default="{ id }"><ElSelect :id="id" v-model="enterAs"><ElOption value="" label="no; leave their rows out" /><ElOption v-for="t in types" :key="t.name" :value="t.name" :label="t.name" /></ElSelect></template></FieldRow>
        <template v-if="!enterAs && look.unknown.length <= 16">
          <TextField v-for="channel in look.unknown" :key="channel" v-model="names[channel]" :label="`${channel || 'The log'} is cell`" maxlength="40" />
        </template>
      </template>
      <TextField v-else-if="log && !look.channels.length" v-model="names['']" label="It is of cell" maxlength="40" />
      <ElButton type="primary" size="large" native-type="submit" :loading="busy">Record the good rows</ElButton>
    </form>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
    <div v-if="kept" role="status">
      <p><strong>{{ kept.kept }} {{ kept.kept === 1 ? 'test' : 'tests' }} kept.</strong><template v-if="kept.bad.length"> {{ kept.bad.length }} {{ kept.bad.length === 1 ? 'row' : 'rows' }} not:</template></p>
      <ul v-if="kept.bad.length"><li v-for="b in kept.bad.slice(0, 40)" :key="`${b.row}${b.because}`"><span class="mono">row {{ b.row }}</span> {{ b.because }}</li></ul>
    </div>
  </section>
</template>

<style scoped>
.bring,
.columns {
  display: grid;
  gap: 10px;
}

.column {
  display: grid;
  gap: 3px;
}

ul {
  margin: 6px 0 0;
  padding-left: 18px;
}
</style>
