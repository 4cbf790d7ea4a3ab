<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import NumberField from '@/forms/NumberField.vue'
import { computed, onBeforeUnmount, ref, shallowRef, triggerRef, watch } from 'vue'
import { client, settled } from '@/api/client'
import { quantity, sent, wrongWith } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { clock, volts } from '@/composables/format'
import { type From, vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import { fresh, useLive } from '@/composables/useLive'
import { NOWHERE, probesAt } from '@/composables/useMeter'
import FieldRow from '@/bench/FieldRow.vue'
import { StepLog } from './StepLog'
import { useKeep } from './useKeep'

/** Each group's resistance: at 1 kHz as typed, at once and later from a logged step, beside its siblings. */
const job = useJob()
const { want, frame, packSeconds } = useLive()
const { busy, keep, refusal } = useKeep()
const { act, refusal: switched } = useAct()
const pack = computed(() => job.value.facts.intake.pack)
const found = computed(() => job.value.assessment.measures.resistances ?? null)
const shown = computed(() => (found.value?.groups ?? []).filter((g) => g.acir_ohm !== null || g.at_once_ohm !== null).toReversed())

function sourceOf(k: number): From {
  const said = (job.value.assessment.measures.all ?? []).filter((m) => m.group === k).slice(-2)
  return { what: `Group ${k}`, words: said.map((m) => `${clock(m.at)} ${m.says}`).join(' ') }
}

const group = ref(1)
const amps = ref('')
const acir = ref('')
const said = shallowRef<string | null>(null)
const log = shallowRef<StepLog | null>(null)

const virtual = computed(() => frame.value?.virtual ?? null)
const live = (kinds: string[]) => frame.value?.instruments.find((i) => kinds.includes(i.kind) && i.connected && fresh(i)) ?? null
const meter = computed(() => live(['meter']))
const load = computed(() => live(['load', 'supply', 'capacity_tester']))

// A virtual pack's own time, for its clock may run faster than ours.
watch(frame, (now) => {
  const at_s = now?.virtual?.clock.clock_s ?? now?.at
  const v = meter.value?.live?.volts
  if (!log.value || at_s == null || v == null) return
  log.value.see({ at_s, volts: v, amps: load.value?.live?.amps ?? 0 })
  triggerRef(log)
})

const path = computed(() => ({ params: { path: { job_id: job.value.facts.id } } }))
const pause = (seconds: number) => new Promise((resolve) => setTimeout(resolve, seconds * 1000))
const loadOn = (on: boolean) => act(() => settled(client.POST('/api/jobs/{job_id}/virtual/source', { ...path.value, // It stops by itself, whatever becomes of this window.
  body: { kind: 'load', source: { on, mode: 'current', amps: sent(amps.value, 'A') as number, stop_after_s: on ? STEP_S + 5 * (virtual.value?.clock.speed ?? 1) : null } as never } })))

// Steps that follow each other too soon tell no growth: the cells still recover, in the pack's own time.
const REST_S = 75
const STEP_S = 20
const offAt = shallowRef<number | null>(null)
const resting = computed(() => (running.value && !log.value && offAt.value !== null ? Math.max(REST_S - ((packSeconds.value ?? 0) - offAt.value), 0) : 0))
const running = shallowRef(false)
let gone = false

/** The whole step on a virtual pack: probes on the group, a rest, the load for a while, off again. */
async function runStandIn() {
  said.value = null
  if (quantity(amps.value, 'A') === null) {
    said.value = 'Load, A: type the current of the step, such as 5'
    return
  }
  await act(() => settled(client.POST('/api/jobs/{job_id}/virtual/probes', { ...path.value, body: { ...NOWHERE, ...probesAt({ kind: 'group', group: group.value }) } })))
  running.value = true
  await pause(1.6)
  while (resting.value > 0 && !gone) await pause(0.5)
  log.value = new StepLog()
  await pause(5)
  if (!gone && (await loadOn(true))) await pause(STEP_S / (virtual.value?.clock.speed ?? 1) + 1)
  await loadOn(false)
  offAt.value = packSeconds.value
  running.value = false
  if (!gone) await stop()
}

async function stop() {
  const points = log.value?.points ?? []
  log.value = null
  if (points.length < 2) said.value = 'The log is too short; let it run for a few seconds before and after the load goes on'
  else if (await keep({ kind: 'step', log: { group: group.value, points } })) onward()
}
// Every value counts while a step is logged, changed or not.
watch(() => log.value !== null, (on) => want('every', on))
onBeforeUnmount(() => {
  gone = true
  if (log.value !== null) want('every', false)
  if (running.value) void loadOn(false)
})

async function keepAcir() {
  said.value = null
  const milli = quantity(acir.value, 'mΩ')
  if (milli === null) said.value = `At 1 kHz, mΩ: ${wrongWith(acir.value, 'mΩ') ?? 'type milliohms such as 14.2'}`
  else if (await keep({ kind: 'acir', group: group.value, ohm: milli / 1000 })) {
    acir.value = ''
    onward()
  }
}
const onward = () => (group.value = (group.value % pack.value.series) + 1)
const milli = (ohm: number | null | undefined) => (ohm == null ? '–' : (ohm * 1000).toFixed(1))
</script>

<template>
  <section class="resistances">
    <h2><TermWord of="dc_resistance">Resistance</TermWord>, group by group</h2>
    <div class="line">
      <FieldRow label="Group"><template #default="{ id }"><ElSelect :id="id" v-model="group" aria-label="Group"><ElOption v-for="k in pack.series" :key="k" :value="k" :label="`group ${k}`" /></ElSelect></template></FieldRow>
      <form class="line" @submit.prevent="keepAcir">
        <NumberField v-model="acir" label="At 1 kHz" unit="mΩ" />
        <ElButton native-type="submit" :loading="busy">Record the resistance</ElButton>
      </form>
    </div>
    <div v-if="meter" class="line">
      <NumberField v-if="virtual" v-model="amps" label="Load" unit="A" />
      <output v-if="running && resting > 0" class="mono">resting {{ Math.ceil(resting) }} s more</output>
      <template v-else-if="log">
        <output class="mono">{{ log.points.length }} values, step {{ log.step.toFixed(2) }} A</output>
        <ElButton v-if="!virtual" type="primary" @click="stop">Stop and record</ElButton>
      </template>
      <ElButton v-else-if="virtual" type="primary" :loading="running" @click="runStandIn">Log a step with the stand-in load</ElButton>
      <ElButton v-else type="primary" :disabled="!load" @click="log = new StepLog()">Log a step: start, then switch the load on</ElButton>
    </div>
    <p v-if="meter && !virtual && !load" class="muted">Enter the load under Instruments, so that its current is logged beside the meter's volts.</p>
    <p v-if="!meter" class="muted">With a live meter and load a step is logged here, and what is there at once is told from what grows. Two sets side by side give the same by hand.</p>
    <p v-if="said ?? refusal ?? switched" class="error" role="alert">{{ said ?? refusal?.message ?? switched?.message }}</p>
    <table v-if="found">
      <thead><tr><th>group</th><th class="number">1 kHz, mΩ</th><th class="number">at once, mΩ</th><th class="number">grown by, mΩ</th><th class="number">off, σ</th><th>out of line</th></tr></thead>
      <tbody>
        <tr v-for="g in shown" :key="g.group" v-from="sourceOf(g.group)" :class="{ odd: g.odd }">
          <td>{{ g.group }}</td>
          <td class="number">{{ milli(g.acir_ohm) }}</td>
          <td class="number">{{ milli(g.at_once_ohm) }}</td>
          <td class="number">{{ milli(g.grown_ohm) }}</td>
          <td class="number">{{ g.z == null ? '–' : volts(g.z, 1) }}</td>
          <td><strong v-if="g.odd">▲ {{ g.odd === 'ohmic' ? 'at once: a joint' : 'with time: the cells' }}</strong></td>
        </tr>
      </tbody>
    </table>
    <p v-for="(line, i) in found?.says ?? []" :key="i">{{ line }}</p>
  </section>
</template>

<style scoped>
.resistances {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
}

.line {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px 14px;
}

.line :deep(.el-input),
.line :deep(.el-select) {
  width: 120px;
}
</style>
