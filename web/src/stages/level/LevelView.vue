<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import NumberField from '@/forms/NumberField.vue'
import { useQuery } from '@tanstack/vue-query'
import { refDebounced, useStorage } from '@vueuse/core'
import { computed, defineAsyncComponent, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import Caution from '@/bench/Caution.vue'
import NextButton from '@/bench/NextButton.vue'
import StringsState from '@/bench/StringsState.vue'
import StageButton from '@/bench/StageButton.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { degrees } from '@/composables/degrees'
import { ampHours, clock, duration, volts } from '@/composables/format'
import { quantity } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useDriven } from '@/composables/useDriven'
import { type From, vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import { useLive } from '@/composables/useLive'
import { useOutputs } from '@/composables/useOutputs'
import { useShortcuts } from '@/composables/useShortcuts'
import FieldRow from '@/bench/FieldRow.vue'
import ChannelPlan from './ChannelPlan.vue'
import ChargeLogs from './ChargeLogs.vue'
import DrivenCharge from './DrivenCharge.vue'
import ReplacedGroup from './ReplacedGroup.vue'
import RunningCharge from './RunningCharge.vue'

const TaperChart = defineAsyncComponent(() => import('@/figures/TaperChart.vue'))

const job = useJob()
const route = useRoute()
const router = useRouter()
const { data: channels } = useQuery({ queryKey: ['channels'], queryFn: () => settled(client.GET('/api/channels')) })
const id = computed(() => job.value.facts.id)
const { frame } = useLive()
const virtual = computed(() => frame.value?.virtual != null)
// A virtual pack has the stand-in charger; a real one what the shop has, once it is told.
const over = useStorage<'' | 'channels' | 'one'>('saldatura.level-over', '')
// Shareable: an address may say which.
const asked = computed(() => (route.query.over === 'channels' || route.query.over === 'one' ? route.query.over : ''))
const running = computed(() => job.value.facts.charges.filter((c) => !c.end))
const byChannels = computed(() => (asked.value || over.value || (virtual.value && !running.value.some((r) => r.driven) ? 'one' : 'channels')) === 'channels' && (channels.value?.length ?? 0) > 0 && !job.value.assessment.frozen)
const target = shallowRef<Schemas['LevelNeed']['target']>('match')
const current = shallowRef('')
const typed = refDebounced(current, 200)
const amps = computed(() => (typed.value.trim() ? (quantity(typed.value, 'A') ?? NaN) : null))

const { data: need, error } = useQuery({
  queryKey: computed(() => ['level', id.value, target.value, amps.value, job.value.facts.last_id]),
  queryFn: () => {
    if (Number.isNaN(amps.value)) throw new Refusal([{ field: 'current_a', message: `“${typed.value}” is not a current; type amps such as 2.5` }], 0)
    return settled(client.GET('/api/jobs/{job_id}/level', { params: { path: { job_id: id.value }, query: { target: target.value, current_a: amps.value ?? undefined } } }))
  },
  retry: false,
  placeholderData: (before) => before,
})
const said = computed(() => (error.value instanceof Refusal ? error.value.message : null))

const chosen = shallowRef<number | null>(null)
watch(need, (n) => {
  if (n && !n.needs.some((g) => g.group === chosen.value)) chosen.value = n.needs[0]?.group ?? null
}, { immediate: true })
const shown = computed(() => need.value?.needs.find((n) => n.group === chosen.value) ?? null)
const curve = computed(() => {
  const c = shown.value?.forecast.curve
  return c ? c.time_s.map((seconds, i) => ({ seconds, volts: c.volts[i]!, amps: c.amps[i]! })) : []
})
const { driven } = useDriven(computed(() => job.value), frame)
// What an output that has stopped sees at its clips.
const { outputs } = useOutputs(computed(() => running.value.some((r) => r.stopped)))
// A group that was charged since is known by what it read then; what was measured of it counts beside.
function sourceOf(group: number): From {
  const now = job.value.assessment.groups?.find((g) => g.group === group)
  const charged = job.value.facts.charges.find((c) => c.id === now?.since_charge)
  const measured = [now?.capacity_ah, now?.resistance_ohm].flatMap((f) => (f ? [f.source] : []))
  const beside = measured.length ? `; forecast with ${measured.join(' and ')}` : ''
  if (charged?.end) return { what: `Group ${group}`, words: `${volts(charged.end.volts)} V read when its charge ended, ${clock(charged.end.at)}${beside}` }
  return { what: `Group ${group}`, set: job.value.assessment.probe, groups: [group], beside }
}
const waiting = computed(() => (need.value?.needs ?? []).filter((n) => !running.value.some((r) => r.group === n.group)))
const ended = (charge: number) => job.value.facts.charges.find((c) => c.id === charge) ?? null
const compared = computed(() => job.value.assessment.compared)

const ENDS: Record<NonNullable<Schemas['GroupNeed']['rule']>, (n: Schemas['GroupNeed']) => string> = {
  cc_cv: (n) => `Ends when the current falls to ${n.cutoff_a} A.`,
  precharge: (n) => `Ends at ${volts(n.target_v)} V, and no further.`,
  timed: () => 'Ends by the clock, or by −ΔV on a charger that knows it.',
}

function plannedOver(what: 'channels' | 'one') {
  over.value = what
  if (asked.value) void router.replace({ query: { ...route.query, over: what } })
}
const { act, busy, refusal } = useAct()
function step(by: number) {
  const groups = waiting.value.map((n) => n.group)
  const at = groups.indexOf(chosen.value ?? -1)
  chosen.value = groups[(at + by + groups.length) % groups.length] ?? chosen.value
}
useShortcuts(() => (waiting.value.length ? [
  { key: 'ArrowDown', does: 'the forecast of the next group', run: () => step(1) },
  { key: 'ArrowUp', does: 'the forecast of the one before', run: () => step(-1) },
] : []))
async function start(group: number) {
  await act(() =>
    settled(client.POST('/api/jobs/{job_id}/charges', { params: { path: { job_id: id.value } }, body: { group, target: target.value, current_a: amps.value, stand_in: virtual.value, driven: false } })),
  )
}
</script>

<template>
  <StageLayout>
    <section class="level">
      <h1 v-if="running.length > 1">Groups {{ running.map((r) => r.group).join(' and ') }} {{ running.every((r) => r.stopped) ? 'are to be read' : 'are on chargers' }}</h1>
      <h1 v-else-if="running.length">Group {{ running[0]!.group }} is on {{ running[0]!.channel || 'the charger' }}</h1>
      <h1 v-else-if="byChannels">Level, over the shop's channels</h1>
      <h1 v-else-if="waiting.length">{{ waiting.length === 1 ? `Group ${waiting[0]!.group} lacks charge` : `${waiting.length} groups lack charge` }}</h1>
      <h1 v-else-if="need?.refused.length">{{ need.at_target.length ? 'Nothing more to charge' : 'Nothing here may be charged' }}</h1>
      <h1 v-else-if="need?.above?.length">Nothing to charge; {{ need.above.length === 1 ? `group ${need.above[0]} stands` : `${need.above.length} groups stand` }} too high</h1>
      <h1 v-else-if="need">Every group is at its target</h1>
      <h1 v-else>Level</h1>

      <template v-for="run in running" :key="run.id"><DrivenCharge v-if="run.driven" :run="run" :now="driven.get(run.id) ?? null" :idle="outputs?.find((o) => o.channel === run.channel)?.live?.volts ?? null" /><RunningCharge v-else :run="run" :alone="running.length === 1" /></template>

      <StringsState :closed="job.assessment.closed !== null" />
      <div v-if="channels?.length" class="chips" role="group" aria-label="Planned over"><button type="button" class="chip" :aria-pressed="byChannels" @click="plannedOver('channels')">over the shop's channels</button><button type="button" class="chip" :aria-pressed="!byChannels" @click="plannedOver('one')">one charger, group by group</button></div>
      <ChannelPlan v-if="byChannels" />
      <template v-else>
        <form class="question" @submit.prevent>
          <FieldRow label="Level to" group>
            <ElRadioGroup v-model="target" aria-label="Level to">
              <ElRadioButton value="match">match the highest</ElRadioButton>
              <ElRadioButton value="full">full</ElRadioButton>
              <ElRadioButton value="storage">storage</ElRadioButton>
            </ElRadioGroup>
          </FieldRow>
          <NumberField v-model="current" label="Charger current" unit="A" :error="error instanceof Refusal ? error.on('current_a') : undefined" :placeholder="need?.usual_a ? `${need.usual_a} usual` : ''" />
        </form>
        <p v-if="said && !(error instanceof Refusal && error.on('current_a'))" class="error" role="alert">{{ said }}</p>
        <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>

        <table v-if="waiting.length">
          <thead>
            <tr><th>group</th><th class="number"><TermWord of="at_rest">rests at</TermWord></th><th class="number">charger</th><th class="number">needs</th><th class="number">takes</th><th><span class="visually-hidden">start</span></th></tr>
          </thead>
          <tbody>
            <tr v-for="n in waiting" :key="n.group" :class="{ chosen: n.group === chosen }" @click="chosen = n.group">
              <td class="group"><button type="button" class="pick" :aria-pressed="n.group === chosen" @click.stop="chosen = n.group">group {{ n.group }}</button></td>
              <td v-from="sourceOf(n.group)" class="number">{{ volts(n.rest_v) }} V</td>
              <td class="number setting"><span class="set">{{ n.rule === 'timed' ? 'by time' : `${volts(n.target_v)} V` }}</span> <span class="set">{{ n.current_a }} A</span><template v-if="n.rule === 'precharge'"><span class="first"><TermWord of="pre_charge">pre-charge</TermWord></span></template></td>
              <td v-from="sourceOf(n.group)" class="number strong">{{ ampHours(n.forecast.charge_ah) }} Ah</td>
              <td v-from="sourceOf(n.group)" class="number strong">{{ duration(n.forecast.duration_low_s) }} – {{ duration(n.forecast.duration_high_s) }}</td>
              <td class="start"><ElButton v-if="!running.length && !job.assessment.frozen" :loading="busy" :aria-label="`Start group ${n.group}`" @click.stop="start(n.group)">Start</ElButton></td>
            </tr>
          </tbody>
        </table>
        <p v-for="sentence in need?.says ?? []" :key="sentence">{{ sentence }}</p>

        <template v-if="shown && !running.length">
          <p class="label">Group {{ shown.group }} as forecast; look again after {{ shown.look_again_s.map(duration).join(', ') }}. {{ ENDS[shown.rule ?? 'cc_cv'](shown) }}</p>
          <TaperChart v-from="sourceOf(shown.group)" :points="curve" :low-s="shown.forecast.duration_low_s" :high-s="shown.forecast.duration_high_s" />
          <p>{{ shown.note }}</p>
        </template>
      </template>

      <template v-for="r in (need?.refused ?? []).filter((one) => !byChannels || one.wants_cells)" :key="r.group">
        <p class="error">Group {{ r.group }}: {{ r.because }}</p>
        <ReplacedGroup v-if="r.wants_cells && !job.assessment.frozen" :group="r.group" />
      </template>
      <section v-if="compared.length" class="ended">
        <h2>Ended</h2>
        <template v-for="c in compared" :key="c.charge_id"><p><strong>Group {{ c.group }}.</strong> {{ c.says }}</p><ChargeLogs v-if="ended(c.charge_id)" :run="ended(c.charge_id)!" /></template>
      </section>
    </section>
    <template #judgement>
      <section v-if="job.assessment.probe?.verdict.cost" class="why">
        <p class="label">What it is for</p>
        <p>{{ job.assessment.probe.verdict.cost }}</p>
      </section>
      <Caution v-for="caution in job.assessment.probe?.verdict.cautions ?? []" :key="caution" title="Before anything is clipped on" grave>{{ caution }}</Caution>
      <Caution title="Clip to this group's two taps only">Charger off while clipping: plus to the upper tap, minus to the lower. Read the clip voltage before it starts; the wrong pair overcharges a full group.</Caution>
      <Caution title="Never unattended">A first charge after a repair is watched. Warm to the hand, stop it; past {{ degrees(45) }}, carry it outside.</Caution>
      <Caution v-if="job.now.charger" title="Its old charger is dangerous now" grave>{{ job.now.charger }}</Caution>
      <template v-if="!job.assessment.frozen && !running.length"><NextButton but="level" /><StageButton v-if="job.assessment.next?.stage !== 'prove'" to="prove" :quiet="job.assessment.next?.stage !== 'level'">Go on to Prove</StageButton></template>
    </template>
  </StageLayout>
</template>

<style scoped>
.level {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
}

.question {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 14px 28px;
}

.question :deep(.el-input) {
  width: 150px;
}

.group {
  white-space: nowrap;
}

.strong {
  font-weight: 700;
}

td.number {
  white-space: nowrap;
}

td,
th {
  padding-inline: 6px;
}

td.setting {
  white-space: normal;
}

.set {
  display: block;
  white-space: nowrap;
}

td.number {
  font-size: 16px;
}

tr.chosen {
  background: var(--petrol-tint);
}

.first {
  color: var(--copper);
  display: block;
  font-family: var(--text);
  white-space: nowrap;
  font-size: 14px;
  font-weight: 650;
}

.pick {
  background: none;
  border: 0;
  color: var(--ink);
  cursor: pointer;
  font: inherit;
  font-weight: 650;
  min-height: 44px;
  padding: 0;
}

.start {
  text-align: right;
}

.ended {
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 6px;
  padding-top: 10px;
}

.why {
  display: grid;
  gap: 7px;
}

@media (max-width: 1100px) {
  td,
  th {
    font-size: 14px;
    padding: 5px 3px;
  }

  td.number {
    white-space: normal;
  }

  .start :deep(.el-button) {
    padding: 0 9px;
  }
}
</style>
