<script setup lang="ts">
import { computed, defineAsyncComponent, ref, shallowRef } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { ampHours, clock, duration, timeLeft, volts } from '@/composables/format'
import { parseNumber, parseVolts } from '@/composables/parseVolts'
import { useAct } from '@/composables/useAct'
import { vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import { shown, useLive } from '@/composables/useLive'
import { useNow } from '@/composables/useNow'
import TimeRing from '@/figures/TimeRing.vue'
import FieldRow from '@/bench/FieldRow.vue'

/** A charge that runs: its time left, when to look, and the reading that ends it. */
const props = defineProps<{ run: Schemas['ShownCharge'] }>()

const TaperChart = defineAsyncComponent(() => import('@/figures/TaperChart.vue'))

const job = useJob()
const now = useNow()
const { act, busy, refusal } = useAct()
const { frame, packSeconds, samples } = useLive()
// A virtual pack's charge goes by the pack's own clock, which the frames bring; a real one's by ours.
const simulated = computed(() => (props.run.clock_s == null ? null : (frame.value?.virtual ?? null)))
const elapsed = computed(() => (simulated.value ? packSeconds.value! - props.run.clock_s! : (now.value - new Date(props.run.at).getTime()) / 1000))
const left = computed(() => (props.run.forecast_s - elapsed.value) * 1000)
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

const ended = ref({ volts: '', counted: '' })
const wrong = shallowRef<string | null>(null)
async function end(outcome: 'finished' | 'stopped') {
  const read = parseVolts(ended.value.volts, { low: props.run.expected_low_v, high: props.run.expected_high_v }, { low: props.run.plausible_low_v, high: props.run.plausible_high_v })
  const counted = ended.value.counted.trim() ? parseNumber(ended.value.counted) : null
  wrong.value = null
  if (read === null) wrong.value = `Group ${props.run.group}: type the voltage it reads now, such as ${volts(props.run.target_v)}.`
  else if (ended.value.counted.trim() && counted === null) wrong.value = `Counted: “${ended.value.counted}” is not a number; type Ah such as 2.1, or leave it empty.`
  if (wrong.value || read === null) return
  await act(() =>
    settled(
      client.POST('/api/jobs/{job_id}/charges/{charge_id}/end', {
        params: { path: { job_id: job.value.facts.id, charge_id: props.run.id } },
        body: { outcome, volts: read, counted_ah: counted },
      }),
    ),
  )
}
</script>

<template>
  <section class="running">
    <TimeRing :done="elapsed / run.forecast_s" :size="84" />
    <div>
      <p class="big mono">{{ left > 0 ? timeLeft(left) : '0:00' }}</p>
      <p class="muted">{{ stopped ? 'the charger has stopped by itself' : left > 0 ? 'hours and minutes left' : 'the forecast is over: look now' }}<template v-if="simulated">, simulated {{ paused ? 'and paused' : `×${simulated.clock.speed}` }}</template></p>
      <p v-if="charger" class="mono live">{{ shown(charger) }}</p>
    </div>
    <dl v-from="forecast" class="wide">
      <div><dt>should end</dt><dd class="mono">{{ at(run.forecast_low_s) }} – {{ simulated ? duration(run.forecast_high_s) : at(run.forecast_high_s) }}</dd></div>
      <div><dt>look again</dt><dd class="mono">{{ next === null ? 'now' : at(next) }}</dd></div>
      <div><dt>from, to</dt><dd class="mono">{{ volts(run.start_v) }} → {{ volts(run.target_v) }} V, {{ run.current_a }} A</dd></div>
      <div><dt>forecast</dt><dd class="mono">{{ ampHours(run.forecast_ah) }} Ah in {{ duration(run.forecast_s) }}</dd></div>
    </dl>
    <div v-if="measured.length > 1" class="wide">
      <p class="label">As measured so far, in the pack's own time</p>
      <TaperChart :points="measured" :low-s="run.forecast_low_s" :high-s="run.forecast_high_s" />
    </div>
    <form class="end" @submit.prevent="end('finished')">
      <FieldRow :label="`Group ${run.group} reads, V`" :error="wrong ?? refusal?.on('volts')">
        <template #default="{ id }"><ElInput :id="id" v-model="ended.volts" inputmode="decimal" class="read" /></template>
      </FieldRow>
      <FieldRow label="Charger counted, Ah">
        <template #default="{ id }"><ElInput :id="id" v-model="ended.counted" inputmode="decimal" /></template>
      </FieldRow>
      <ElButton type="primary" native-type="submit" :loading="busy">It has finished</ElButton>
      <ElButton :loading="busy" @click="end('stopped')">Stopped by hand</ElButton>
    </form>
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
  grid-template-columns: auto 1fr;
  padding: 14px 18px;
}

.live {
  font-size: 20px;
  padding-top: 6px;
  white-space: pre;
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
  dl {
    gap: 6px 18px;
    white-space: normal;
  }
}

.end {
  align-items: end;
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 12px;
  grid-column: 1 / -1;
  grid-template-columns: 1fr 1fr;
  padding-top: 12px;
}

.error {
  grid-column: 1 / -1;
}
</style>
