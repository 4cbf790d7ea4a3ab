<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, defineAsyncComponent, ref, shallowRef } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { ampHours, clock, duration, timeLeft, volts } from '@/composables/format'
import { quantity, type Unit, wrongWith } from '@/forms/quantity'
import { useVolts } from '@/composables/useVolts'
import { useAct } from '@/composables/useAct'
import { vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import { shown, useLive } from '@/composables/useLive'
import { useNow } from '@/composables/useNow'
import { useShortcuts } from '@/composables/useShortcuts'
import TimeRing from '@/figures/TimeRing.vue'
import FieldRow from '@/bench/FieldRow.vue'
import VoltsField from '@/bench/VoltsField.vue'
import EndCharge from './EndCharge.vue'

/** A charge that runs: its time left, when to look, and the reading that ends it. */
const props = defineProps<{ run: Schemas['ShownCharge']; alone: boolean }>()

const TaperChart = defineAsyncComponent(() => import('@/figures/TaperChart.vue'))

const job = useJob()
const now = useNow()
const { act, busy, refusal } = useAct()
const { frame, packSeconds, samples } = useLive()
// A virtual pack's charge goes by the pack's own clock, which the frames bring; a real one's by ours.
const simulated = computed(() => (props.run.clock_s == null ? null : (frame.value?.virtual ?? null)))
const elapsed = computed(() => (simulated.value ? packSeconds.value! - props.run.clock_s! : (now.value - new Date(props.run.at).getTime()) / 1000))
// As the last look has it, where it tells.
const over = computed(() => {
  const seen = job.value.assessment.looked?.[props.run.id]
  return seen?.fits ? { s: seen.duration_s, low_s: seen.duration_low_s, high_s: seen.duration_high_s } : { s: props.run.forecast_s, low_s: props.run.forecast_low_s, high_s: props.run.forecast_high_s }
})
const left = computed(() => (over.value.s - elapsed.value) * 1000)
const at = (seconds: number) => (simulated.value ? `after ${duration(seconds)}` : clock(new Date(new Date(props.run.at).getTime() + seconds * 1000).toISOString()))
const charger = computed(() => (simulated.value?.hooked === 'cell_charger' ? (frame.value?.instruments.find((i) => i.kind === 'cell_charger') ?? null) : null))
// The forecast was made when the charge began, from what the group rested at then.
const forecast = computed(() => ({ what: 'Forecast', words: `group ${props.run.group} rested at ${volts(props.run.start_v)} V when its charge began, ${clock(props.run.at)}; charged at ${props.run.current_a} A to ${volts(props.run.target_v)} V, down to ${props.run.cutoff_a} A` }))
const stopped = computed(() => charger.value?.live?.doing === 'done')
const measured = computed(() => {
  const from = props.run.clock_s
  return from == null ? [] : samples.value.filter((s) => s.clock_s >= from).map((s) => ({ seconds: s.clock_s - from, volts: s.volts, amps: s.amps }))
})
const paused = computed(() => simulated.value?.clock.paused ?? false)
const next = computed(() => props.run.look_again_s.find((s) => s > elapsed.value) ?? null)

const seen = computed(() => job.value.assessment.looked?.[props.run.id] ?? null)
const expected = () => ({ low: props.run.expected_low_v, high: props.run.expected_high_v })
const plausible = () => ({ low: props.run.plausible_low_v, high: props.run.plausible_high_v })
const group = () => `group ${props.run.group}`
const charge = computed(() => ({ path: { job_id: job.value.facts.id, charge_id: props.run.id } }))

/** A number of the charger's, or null for none; false where what is typed is none. */
function chargers(text: string, what: string, unit?: Unit): number | null | false {
  const said = wrongWith(text, unit) ?? ((quantity(text, unit) ?? 0) < 0 ? 'type what it shows, zero or more' : null)
  wrong.value = said && `${what}: ${said}, or leave it empty`
  return said ? false : quantity(text, unit)
}
const wrong = shallowRef<string | null>(null)
// With two that run, a key would not say which.
useShortcuts(() =>
  props.alone
    ? [
        { key: 'Enter', does: 'in the field: keep the look; the charge goes on' },
        { key: 'e', does: 'end the charge, with what its group then reads', run: () => (ending.value = true) },
      ]
    : [],
)

// A look ends nothing.
const looking = useVolts(group, expected, plausible)
const amps = ref('')
const celsius = ref('')
// A group that nothing charges must stay where it was.
const other = ref({ group: '', volts: '' })
async function look() {
  const flows = chargers(amps.value, 'Charger shows', 'A')
  if (flows === false) return
  const warm = chargers(celsius.value, 'How warm', '°C')
  const sibling = chargers(other.value.volts, 'Another group reads', 'V')
  const number = chargers(other.value.group, 'Which other group')
  if (warm === false || sibling === false || number === false) return
  const others = sibling !== null && number !== null ? [{ group: number, volts: sibling }] : []
  const nothing = flows === null && warm === null && !others.length
  const volts = looking.text.value.trim() || nothing ? looking.take() : null
  if (volts === null && (looking.text.value.trim() || nothing)) return
  if (!(await act(() => settled(client.POST('/api/jobs/{job_id}/charges/{charge_id}/looks', { params: charge.value, body: { volts: volts?.volts ?? null, amps: flows, celsius: warm, others } }))))) return
  looking.clear()
  amps.value = celsius.value = ''
  other.value = { group: '', volts: '' }
}
const ending = shallowRef(false)
</script>

<template>
  <section class="running">
    <TimeRing :done="elapsed / over.s" :size="84" />
    <div>
      <p class="big mono">{{ left > 0 ? timeLeft(left) : '0:00' }}</p>
      <p class="muted">{{ stopped ? 'the charger has stopped by itself' : left > 0 ? 'hours and minutes left' : 'the forecast is over: look now' }}<template v-if="simulated">, simulated {{ paused ? 'and paused' : `×${simulated.clock.speed}` }}</template></p>
      <p v-if="charger" class="mono live">{{ shown(charger) }}</p>
    </div>
    <dl v-from="forecast" class="wide">
      <div><dt>should end</dt><dd class="mono">{{ at(over.low_s) }} – {{ simulated ? duration(over.high_s) : at(over.high_s) }}</dd></div>
      <div><dt>look again</dt><dd class="mono">{{ next === null ? 'now' : at(next) }}</dd></div>
      <div><dt>from, to</dt><dd class="mono">{{ volts(run.start_v) }} → {{ volts(run.target_v) }} V, {{ run.current_a }} A</dd></div>
      <div><dt>forecast</dt><dd class="mono">{{ ampHours(run.forecast_ah) }} Ah in {{ duration(run.forecast_s) }}</dd></div>
    </dl>
    <div v-if="measured.length > 1" class="wide">
      <p class="label">As measured so far, in the pack's own time</p>
      <TaperChart :points="measured" :low-s="over.low_s" :high-s="over.high_s" />
    </div>
    <p v-if="seen" class="wide" :class="{ error: !seen.fits }" role="status">{{ seen.says }}</p>
    <form v-if="!ending" class="end" @submit.prevent="look">
      <FieldRow :label="`Looked: group ${run.group} shows, V`" :error="looking.wrong.value ?? looking.questioned.value ?? refusal?.on('volts')">
        <template #default="{ id }"><VoltsField :id="id" v-model="looking.text.value" data-next class="boxed" :label="`Group ${run.group} shows, V`" :said="looking.wrong.value" :commands="['e']" @accept="look" @command="ending = true" /></template>
      </FieldRow>
      <NumberField v-model="amps" label="Charger shows" unit="A" />
      <details class="wide">
        <summary>How warm, and what another group reads</summary>
        <div class="more">
          <NumberField v-model="celsius" label="How warm" unit="°C" />
          <NumberField v-model="other.group" label="Another group, its number" whole />
          <NumberField v-model="other.volts" label="reads" unit="V" />
        </div>
      </details>
      <p v-if="looking.preview.value" class="muted wide">{{ looking.preview.value }}</p>
      <ElButton type="primary" native-type="submit" :loading="busy">Record the look</ElButton>
      <ElButton @click="ending = true">End this charge</ElButton>
    </form>
    <EndCharge v-else :run="run" class="end" @back="ending = false" />
    <p v-if="wrong" class="error" role="alert">{{ wrong }}</p>
    <p v-if="refusal && !refusal.on('volts')" class="error" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.running {
  align-items: center;
  background: var(--sheet);
  border: 1px solid var(--ink);
  display: grid;
  gap: 12px 22px;
  grid-template-columns: auto minmax(0, 1fr);
  padding: 14px 18px;
}

.live {
  font-size: 20px;
  padding-top: 6px;
  white-space: pre-wrap;
}

.big {
  font-size: 56px;
  line-height: 1;
}

dl {
  display: grid;
  gap: 6px 40px;
  grid-template-columns: repeat(2, auto);
  justify-content: start;
  margin: 0;
  white-space: nowrap;
}

.wide {
  font-size: 15px;
  grid-column: 1 / -1;
}

dt {
  color: var(--muted);
  font-size: 14px;
}

dd {
  margin: 0;
}

@media (max-width: 1100px) {
  .live {
    font-size: 17px;
  }

  dl {
    gap: 6px 18px;
    white-space: normal;
  }
}

.more {
  display: grid;
  gap: 12px;
  grid-template-columns: repeat(3, minmax(0, 1fr));
}

.end {
  align-items: end;
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 12px;
  grid-column: 1 / -1;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  padding-top: 12px;
}

.end > .error {
  grid-column: 1 / -1;
}
</style>
