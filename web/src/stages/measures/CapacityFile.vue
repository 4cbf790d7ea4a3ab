<script setup lang="ts">
import { computed, shallowRef } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { duration } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'

/** A tester's CSV to what the pack held. */
const MOST_BYTES = 7_000_000
const job = useJob()
const pack = computed(() => job.value.facts.intakes.at(-1)!.intake.pack)
const { act, busy, refusal } = useAct()
const found = shallowRef<Schemas['Capacity'] | null>(null)
const said = shallowRef<string | null>(null)

async function choose(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  said.value = null
  if (!file) return
  if (file.size > MOST_BYTES) {
    said.value = `${file.name} has ${Math.round(file.size / 1e6)} MB; 7 are taken. Export it at a slower rate.`
    return
  }
  const text = await file.text()
  found.value = await act(() => settled(client.POST('/api/measures/capacity', { body: { text, rated_ah: pack.value.rated_ah } })))
}
</script>

<template>
  <section class="capacity">
    <h2>Capacity from a tester's file</h2>
    <label class="file">Choose a CSV with time, voltage and current<input type="file" accept=".csv,.txt,.tsv,text/csv,text/plain" class="visually-hidden" :disabled="busy" @change="choose" /></label>
    <p v-if="said ?? refusal" class="error" role="alert">{{ said ?? refusal?.message }}</p>
    <p v-if="found && !refusal" role="status"><strong class="figure">{{ found.ah.toFixed(2) }} Ah</strong>, {{ Math.round(found.soh * 100) }} % of the rated {{ pack.rated_ah }} Ah; {{ found.wh.toFixed(1) }} Wh in {{ duration(found.seconds) }} at {{ found.mean_a.toFixed(2) }} A, from {{ found.start_v.toFixed(2) }} to {{ found.end_v.toFixed(2) }} V<template v-if="found.ohm !== null">; {{ (found.ohm * 1000).toFixed(0) }} mΩ at the first step</template>. {{ found.rows }} rows, decimal {{ found.decimal }}.</p>
  </section>
</template>

<style scoped>
.capacity {
  display: grid;
  gap: 8px;
  justify-items: start;
}

.file {
  border: 1px solid var(--petrol);
  color: var(--petrol);
  cursor: pointer;
  font-weight: 650;
  padding: 11px 16px;
  position: relative;
}

.file:focus-within {
  outline: 3px solid var(--copper);
}
</style>
