<script setup lang="ts">
import { wholeAh } from '@/composables/build'
import { computed, shallowRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { duration } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useLive } from '@/composables/useLive'
import BeginWait from '@/bench/BeginWait.vue'
import { useKeep } from './useKeep'
import FileButton from '@/forms/FileButton.vue'

/** A tester's CSV to what the pack held. */
const MOST_BYTES = 7_000_000
const job = useJob()
const pack = computed(() => job.value.facts.intake.pack)
const { act, busy, refusal } = useAct()
const { busy: keeping, done, keep, refusal: unkept } = useKeep()
const { frame } = useLive()
const found = shallowRef<Schemas['Capacity'] | null>(null)
const file = shallowRef<{ file: string; text: string } | null>(null)

// A tester that counts: what it has counted when it stopped.
const tester = computed(() => frame.value?.instruments.find((i) => i.kind === 'capacity_tester' && i.connected && (i.live?.ah ?? 0) > 0) ?? null)
const counted = computed(() => {
  const live = tester.value?.live
  if (!live?.ah || live.wh == null || !live.seconds || live.doing !== 'done') return null
  return { kind: 'capacity' as const, source: tester.value!.name, ah: live.ah, wh: live.wh, seconds: live.seconds, mean_a: (live.ah * 3600) / live.seconds, end_v: live.volts ?? 0, at_least: false }
})
const said = shallowRef<string | null>(null)
// A log of one cell is of a group; of the pack where none is named.
const group = shallowRef<number | null>(null)
const rated = computed(() => (group.value === null ? wholeAh(pack.value) : pack.value.rated_ah))
// Of a group it is another share of what is rated.
watch(rated, async () => {
  if (file.value) found.value = await act(() => settled(client.POST('/api/measures/capacity', { body: { text: file.value!.text, rated_ah: rated.value } })))
})

async function choose(chosen: File) {
  said.value = null
  if (chosen.size > MOST_BYTES) {
    said.value = `${chosen.name} has ${Math.round(chosen.size / 1e6)} MB; 7 are taken. Export it at a slower rate.`
    return
  }
  const text = await chosen.text()
  found.value = await act(() => settled(client.POST('/api/measures/capacity', { body: { text, rated_ah: rated.value } })))
  file.value = found.value ? { file: chosen.name.slice(-80), text } : null
  done.value = false
}
</script>

<template>
  <section class="capacity">
    <h2>Capacity from a tester's file</h2>
    <FileButton label="Choose a CSV with time, voltage and current" accept=".csv,.txt,.tsv,text/csv,text/plain" :busy="busy" @chosen="choose" />
    <p v-if="said ?? refusal" class="error" role="alert">{{ said ?? refusal?.message }}</p>
    <p v-if="found && !refusal" role="status"><strong class="figure">{{ found.ah.toFixed(2) }} Ah</strong>, {{ Math.round(found.soh * 100) }} % of the rated {{ rated }} Ah; {{ found.wh.toFixed(1) }} Wh in {{ duration(found.seconds) }} at {{ found.mean_a.toFixed(2) }} A, from {{ found.start_v.toFixed(2) }} to {{ found.end_v.toFixed(2) }} V<template v-if="found.ohm !== null">; {{ (found.ohm * 1000).toFixed(0) }} mΩ at the first step</template>. {{ found.rows }} rows, decimal {{ found.decimal }}.</p>
    <p v-for="flag in found && !refusal ? found.flags : []" :key="flag" class="wants">{{ flag }}</p>
    <ElSelect v-if="found && file && !refusal && pack.series > 1" v-model="group" clearable placeholder="of the whole pack" aria-label="What the file is of"><ElOption v-for="k in pack.series" :key="k" :value="k" :label="`of group ${k}`" /></ElSelect>
    <ElButton v-if="found && file && !refusal" :loading="keeping" :disabled="done" @click="keep({ kind: 'capacity_file', ...file, group })">{{ done ? 'Recorded' : 'Record in the job' }}</ElButton>
    <template v-if="tester">
      <p><strong class="figure">{{ tester.live!.ah!.toFixed(2) }} Ah</strong> counted by the {{ tester.name }} so far{{ counted ? ', and it has stopped' : '' }}.</p>
      <ElButton v-if="counted" :loading="keeping" @click="keep(counted)">Record what the tester counted</ElButton>
    </template>
    <BeginWait kind="capacity" />
    <p v-if="!tester" class="muted">Or hook a capacity tester up under Instruments: what it counts down to its cut-off can be kept from here.</p>
    <p v-if="unkept" class="error" role="alert">{{ unkept.message }}</p>
  </section>
</template>

<style scoped>
.capacity {
  display: grid;
  gap: 8px;
  justify-items: start;
}

</style>
