<script setup lang="ts">
import { wholeAh } from '@/composables/build'
import { computed, shallowRef, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { duration } from '@/composables/format'
import { useJob } from '@/composables/useJob'
import { useLive } from '@/composables/useLive'
import BeginWait from '@/bench/BeginWait.vue'
import { useKeep } from './useKeep'
import LogFile from '@/logs/LogFile.vue'
import { textOf } from '@/logs/textOf'

/** A tester's log to what the pack held. */
// A file that is larger is counted here, and its count kept.
const KEPT_WHOLE = 7_000_000
const job = useJob()
const pack = computed(() => job.value.facts.intake.pack)
const { busy: keeping, done, keep, refusal: unkept } = useKeep()
const { frame } = useLive()
const seen = shallowRef<{ look: Schemas['LogLook']; file: File; columns: string } | null>(null)
const found = computed(() => seen.value?.look.capacity ?? null)

// A tester that counts: what it has counted when it stopped.
const tester = computed(() => frame.value?.instruments.find((i) => i.kind === 'capacity_tester' && i.connected && (i.live?.ah ?? 0) > 0) ?? null)
const counted = computed(() => {
  const live = tester.value?.live
  if (!live?.ah || live.wh == null || !live.seconds || live.doing !== 'done') return null
  return { kind: 'capacity' as const, source: tester.value!.name, ah: live.ah, wh: live.wh, seconds: live.seconds, mean_a: (live.ah * 3600) / live.seconds, end_v: live.volts ?? 0, at_least: false }
})
// A log of one cell is of a group; of the pack where none is named.
const group = shallowRef<number | null>(null)
const rated = computed(() => (group.value === null ? wholeAh(pack.value) : pack.value.rated_ah))
watch(seen, () => (done.value = false))
async function record() {
  const { file, look } = seen.value!
  const source = file.name.slice(-80)
  const c = look.capacity!
  if (file.size <= KEPT_WHOLE) return keep({ kind: 'capacity_file', file: source, group: group.value, text: await textOf(file), columns: look.columns })
  return keep({ kind: 'capacity', source, group: group.value, ah: c.ah, wh: c.wh, seconds: c.seconds, mean_a: c.mean_a, end_v: c.end_v, ohm: c.ohm, at_least: c.result !== 'whole' })
}
</script>

<template>
  <section class="capacity">
    <h2>Capacity from a tester's file</h2>
    <LogFile label="Choose a log with time, voltage and current" :rated-ah="rated" @seen="seen = $event" />
    <p v-if="found" role="status"><strong class="figure">{{ found.ah.toFixed(2) }} Ah</strong>, {{ Math.round(found.soh * 100) }} % of the rated {{ rated }} Ah; {{ found.wh.toFixed(1) }} Wh in {{ duration(found.seconds) }} at {{ found.mean_a.toFixed(2) }} A, from {{ found.start_v.toFixed(2) }} to {{ found.end_v.toFixed(2) }} V<template v-if="found.ohm !== null">; {{ (found.ohm * 1000).toFixed(0) }} mΩ at the first step</template>. {{ found.rows }} rows, decimal {{ found.decimal }}.</p>
    <p v-for="flag in found?.flags ?? []" :key="flag" class="wants">{{ flag }}</p>
    <ElSelect v-if="found && pack.series > 1" v-model="group" clearable placeholder="of the whole pack" aria-label="What the file is of"><ElOption v-for="k in pack.series" :key="k" :value="k" :label="`of group ${k}`" /></ElSelect>
    <ElButton v-if="found && found.result !== 'no_discharge'" :loading="keeping" :disabled="done" @click="record">{{ done ? 'Recorded' : 'Record in the job' }}</ElButton>
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
