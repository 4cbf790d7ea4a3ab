<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { quantity, sent, sentLine, sentMilliohms } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useTermsQuery } from '@/api/queries'
import LoadOnPack from './LoadOnPack.vue'
import StandInRun from './StandInRun.vue'
import TextField from '@/forms/TextField.vue'
import { wholeAh } from '@/composables/build'
import LogFile from '@/logs/LogFile.vue'
import Choice from '@/forms/Choice.vue'

/** What came of a test that has no place of its own: a load run, a full charge, a joint, the board's limits. */
const props = defineProps<{ name: Schemas['ProofTest']['name']; amps: number | null; forecast: Schemas['RunTime'] | null }>()
const emit = defineEmits<{ kept: [] }>()
// The usual limit of data sheets for a cell that is discharged.
const HOTTEST_C = 60
const job = useJob()
const { act, busy, refusal } = useAct()
const series = computed(() => job.value.facts.intake.pack.series)
type Run = Schemas['LoadRunMeasure']
const run = ref({ on: (job.value.assessment.simulated ? 'stand_in' : 'tool') as Run['on'], amps: props.amps == null ? '' : String(Number(props.amps.toPrecision(3))), minutes: '', ended: 'tool' as Run['ended_by'], group: '', ah: '', warm: '', volts: '' })
const ON: Record<Run['on'], string> = { tool: 'in the tool, a clamp beside', load: 'an electronic load', stand_in: 'the stand-in load' }
// A real pack has no stand-ins.
const ways = computed(() => (Object.entries(ON) as [Run['on'], string][]).filter(([key]) => key !== 'stand_in' || job.value.assessment.simulated))
const ENDED: Record<Run['ended_by'], string> = { tool: 'the tool stopped', pack: "the pack's cut-off", group: 'a group at its cut-off', temperature: 'too warm', hand: 'stopped by hand' }
const full = ref({ accepts: true, itself: true, volts: '' })
const joint = ref({ what: '', ohm: '', before: '' })
const board = ref({ on: (job.value.assessment.simulated ? 'stand_in' : 'supply') as Schemas['BoardMeasure']['on'], over: '', under: '' })

// What the stand-in load counted and saw stands in the fields, to be kept with a press.
const { data: terms } = useTermsQuery()
const toolEnd = computed(() => terms.value?.chemistries.find((c) => c.key === job.value.facts.intake.pack.chemistry)?.tool_end_v ?? 3)
function counted(source: Schemas['Source']) {
  const lowest = source.ended_v.length ? source.ended_v.indexOf(Math.min(...source.ended_v)) + 1 : 0
  const ended: Run['ended_by'] = source.doing === 'done' ? 'group' : source.doing === 'cut' && (source.ended_c ?? 0) >= HOTTEST_C ? 'temperature' : source.doing === 'cut' ? 'pack' : 'hand'
  Object.assign(run.value, { on: 'stand_in', minutes: (source.seconds / 60).toFixed(2), ah: source.ah.toFixed(3), warm: source.ended_c == null ? '' : String(source.ended_c), volts: source.ended_v.map((v) => v.toFixed(3)).join(' '), ended, group: ended === 'group' ? String(lowest) : '' })
}
// What the load's own software logged stands in the fields too.
function logged(read: { look: Schemas['LogLook'] } | null) {
  const c = read?.look.capacity
  if (!c || c.result === 'no_discharge') return
  Object.assign(run.value, { amps: c.mean_a.toFixed(3), minutes: (c.seconds / 60).toFixed(2), ah: c.ah.toFixed(3), warm: read.look.hottest_c == null ? run.value.warm : String(read.look.hottest_c) })
}
function body(): Schemas['LoadRunMeasure'] | Schemas['FullChargeMeasure'] | Schemas['JointMeasure'] | Schemas['BoardMeasure'] {
  if (props.name === 'load_run') {
    const minutes = sent(run.value.minutes, 'min')
    return { kind: 'load_run', on: run.value.on, amps: sent(run.value.amps, 'A')!, seconds: typeof minutes === 'number' ? minutes * 60 : (minutes ?? 0), ended_by: run.value.ended, group: run.value.ended === 'group' ? sent(run.value.group) : null, ah: sent(run.value.ah, 'Ah'), wh: null, hottest_c: sent(run.value.warm, '°C'), group_v: sentLine(run.value.volts, 'V'), forecast: null }
  }
  if (props.name === 'full_charge') {
    return { kind: 'full_charge', accepts: full.value.accepts, ended_itself: full.value.accepts && full.value.itself, group_v: sentLine(full.value.volts, 'V') }
  }
  if (props.name === 'joint') {
    return { kind: 'joint', what: joint.value.what.trim(), ohm: sentMilliohms(joint.value.ohm)!, before_ohm: sentMilliohms(joint.value.before) }
  }
  return { kind: 'board_limits', on: board.value.on, over_v: sent(board.value.over, 'V'), under_v: sent(board.value.under, 'V') }
}
async function keep() {
  if (await act(() => settled(client.POST('/api/jobs/{job_id}/measures', { params: { path: { job_id: job.value.facts.id } }, body: body() })))) emit('kept')
}
const said = (field: string) => refusal.value?.on(field)
const shown = ['amps', 'seconds', 'group', 'group_v', 'ohm', 'what', 'hottest_c', 'ah', 'before_ohm', 'over_v', 'under_v']
</script>

<template>
  <form class="test-form" @submit.prevent="keep">
    <template v-if="name === 'load_run'">
      <div class="chips" role="group" aria-label="The load is"><button v-for="[key, words] in ways" :key="key" type="button" class="chip" :aria-pressed="run.on === key" @click="run.on = key">{{ words }}</button></div>
      <div class="line">
        <NumberField v-model="run.amps" label="Current" unit="A" :error="said('amps')" />
        <NumberField v-model="run.minutes" label="Lasted" unit="min" :error="said('seconds')" />
        <NumberField v-model="run.ah" label="Counted" unit="Ah" :error="said('ah')" />
        <NumberField v-model="run.warm" label="Warmest" unit="°C" :error="said('hottest_c')" />
      </div>
      <StandInRun v-if="run.on === 'stand_in'" :amps="quantity(run.amps, 'A')" :forecast="forecast" :group-v="toolEnd" :hottest="HOTTEST_C" @ended="counted" />
      <LoadOnPack v-if="run.on === 'load'" :amps="quantity(run.amps, 'A')" :ends="forecast?.ends.group ?? null" @kept="emit('kept')" />
      <LogFile v-if="run.on !== 'stand_in'" quiet label="Fill these from the load’s own log" :rated-ah="wholeAh(job.facts.intake.pack)" @seen="logged" />
      <NumberField v-model="run.volts" many unit="V" bare :label="`The ${series} groups at its end, under the load, V; empty: not read`" :error="said('group_v')" placeholder="3.02 3.21 3.19" />
      <Choice label="What ended it" :options="ENDED" :chosen="(key) => run.ended === key" @choose="(key) => (run.ended = key)" />
      <NumberField v-if="run.ended === 'group'" v-model="run.group" label="Which group" whole :error="said('group')" />
    </template>
    <template v-else-if="name === 'full_charge'">
      <div class="chips"><button type="button" class="chip" :aria-pressed="full.accepts" @click="full.accepts = !full.accepts">its charger takes it</button><button v-if="full.accepts" type="button" class="chip" :aria-pressed="full.itself" @click="full.itself = !full.itself">it ended by itself</button></div>
      <NumberField v-if="full.accepts" v-model="full.volts" many unit="V" bare :label="`The ${series} groups then, V, one after the other; empty: not read`" :error="said('group_v')" placeholder="4.19 4.18 4.19" />
    </template>
    <template v-else-if="name === 'joint'">
      <div class="line">
        <TextField v-model="joint.what" label="Which joint" :error="said('what')" maxlength="60" />
        <NumberField v-model="joint.ohm" label="Now" unit="mΩ" :error="said('ohm')" />
        <NumberField v-model="joint.before" label="Before" unit="mΩ" :error="said('before_ohm')" />
      </div>
    </template>
    <template v-else>
      <div class="line">
        <NumberField v-model="board.over" label="Opens at, V a group" bare unit="V" :error="said('over_v')" />
        <NumberField v-model="board.under" label="Cuts off at, V a group" bare unit="V" :error="said('under_v')" />
      </div>
    </template>
    <ElButton type="primary" native-type="submit" :loading="busy">Record the result</ElButton>
    <p v-if="refusal && !shown.some((f) => said(f))" class="error" role="alert">{{ refusal.message }}</p>
  </form>
</template>

<style scoped>
.test-form {
  display: grid;
  gap: 10px;
  justify-items: start;
  padding-top: 6px;
}

.line {
  display: grid;
  gap: 12px;
  grid-template-columns: repeat(auto-fit, minmax(120px, 1fr));
  width: 100%;
}
</style>
