<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { watchThrottled } from '@vueuse/core'
import { computed, defineAsyncComponent } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { degrees } from '@/composables/degrees'
import { ampHours, clock, duration, timeLeft, volts } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useLive } from '@/composables/useLive'
import { useNow } from '@/composables/useNow'
import { vFrom } from '@/composables/origin'
import TimeRing from '@/figures/TimeRing.vue'
import EndCharge from './EndCharge.vue'

/** A charge that the program drives: what it shows, when it ends as its own taper has it, what rings, and the switch that ends it. */
const props = defineProps<{ run: Schemas['ShownCharge']; now: Schemas['ChargeNow'] | null; idle: number | null }>()
const TaperChart = defineAsyncComponent(() => import('@/figures/TaperChart.vue'))
const job = useJob()
const { act, busy, refusal } = useAct()
const { frame, packSeconds } = useLive()
const time = useNow()
const params = computed(() => ({ path: { job_id: job.value.facts.id, charge_id: props.run.id } }))
const simulated = computed(() => (props.run.clock_s == null ? null : (frame.value?.virtual ?? null)))
const stopped = computed(() => props.run.stopped ?? null)
const elapsed = computed(() => (simulated.value && packSeconds.value !== null ? packSeconds.value - props.run.clock_s! : (time.value - new Date(props.run.at).getTime()) / 1000))
const fit = computed(() => (props.now?.watch.fit?.fits ? props.now.watch.fit : null))
const over = computed(() => (fit.value ? { s: fit.value.duration_s, low_s: fit.value.duration_low_s, high_s: fit.value.duration_high_s } : { s: props.run.forecast_s, low_s: props.run.forecast_low_s, high_s: props.run.forecast_high_s }))
const left = computed(() => (over.value.s - elapsed.value) * 1000)
const at = (seconds: number) => (simulated.value ? duration(seconds) : clock(new Date(new Date(props.run.at).getTime() + seconds * 1000).toISOString()))
const live = computed(() => (stopped.value ? null : (props.now?.live ?? null)))
const { data: log, refetch } = useQuery({
  queryKey: computed(() => ['charge-log', props.run.id]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/charges/{charge_id}/log', { params: { ...params.value, query: { points: 500 } } })),
})
// The log grows while something goes in.
watchThrottled(() => [props.now?.ah, props.now?.live?.amps, stopped.value], () => void refetch(), { throttle: 2500 })
const points = computed(() => (log.value ? log.value.time_s.map((seconds, k) => ({ seconds, volts: log.value!.volts[k]!, amps: log.value!.amps[k]!, celsius: log.value!.celsius[k] ?? null })) : []))
const went = computed(() => stopped.value?.ah ?? props.now?.ah ?? 0)
const forecast = computed(() => ({ what: 'Forecast', words: `group ${props.run.group} rested at ${volts(props.run.start_v)} V when its charge began, ${clock(props.run.at)}; then fitted to what ${props.run.channel} measured` }))
const asCharged = computed(() => {
  const t = stopped.value?.measured
  const parts = [t?.ah ? `it holds ${ampHours(t.ah)} ± ${ampHours(t.ah_doubt)} Ah` : '', t?.ohm ? `it resists ${(t.ohm * 1000).toFixed(0)} ± ${(t.ohm_doubt * 1000).toFixed(0)} mΩ` : ''].filter(Boolean)
  return parts.length ? `As charged, ${parts.join(' and ')}.` : null
})
const off = () => act(() => settled(client.POST('/api/jobs/{job_id}/charges/{charge_id}/off', { params: params.value })))
const csv = computed(() => `/api/jobs/${job.value.facts.id}/charges/${props.run.id}/log.csv`)
</script>

<template>
  <section class="driven" :class="{ stopped }" :aria-label="`Group ${run.group} on ${run.channel}`">
    <TimeRing :done="stopped ? 1 : elapsed / over.s" :size="64" />
    <div>
      <h2>Group {{ run.group }} on {{ run.channel }}</h2>
      <p v-if="stopped" class="muted">{{ stopped.off ? 'Its output is off.' : 'It has not said that it is off: pull the clips.' }}</p>
      <p v-else class="left"><span class="big mono">{{ left > 0 ? timeLeft(left) : '0:00' }}</span><span class="muted">left<template v-if="simulated">, simulated {{ simulated.clock.paused ? 'and paused' : `×${simulated.clock.speed}` }}</template></span></p>
    </div>
    <p class="shows mono" aria-live="off"><template v-if="live"><span>{{ live.volts == null ? '–' : volts(live.volts, 3) }} V</span><span>{{ live.amps == null ? '–' : live.amps.toFixed(2) }} A</span><span v-if="now?.celsius != null">{{ degrees(now.celsius, 0) }}</span></template><span v-else-if="!stopped" class="muted">no answer</span></p>
    <p v-for="says in now?.ringing ?? []" :key="says" class="rings wide" role="alert">{{ says }}</p>
    <dl v-if="!stopped" v-from="forecast" class="wide">
      <div><dt>should end{{ simulated ? ' after' : '' }}</dt><dd>{{ at(over.low_s) }} – {{ at(over.high_s) }}</dd></div>
      <div><dt>set and read back, its limit</dt><dd>{{ volts(run.target_v) }} V, {{ run.current_a }} A, {{ now ? volts(now.setting.over_v) : '–' }} V</dd></div>
      <div><dt>went in</dt><dd>{{ ampHours(went) }} of {{ ampHours(run.forecast_ah) }} Ah</dd></div>
    </dl>
    <p v-if="stopped" class="wide says">{{ stopped.says }} {{ ampHours(went) }} Ah went in. {{ asCharged }}</p>
    <TaperChart v-if="points.length > 1" class="wide" :points="points" :low-s="over.low_s" :high-s="over.high_s" :low="stopped !== null" />
    <p v-if="!stopped" class="acts wide"><ElButton :loading="busy" @click="off">Switch {{ run.channel }} off</ElButton><a :href="csv" download>log as CSV</a></p>
    <EndCharge v-else :run="run" :shows="idle" :counted="went" over class="end wide" />
    <p v-if="refusal" class="error wide" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.driven {
  align-items: center;
  background: var(--sheet);
  border: 1px solid var(--ink);
  display: grid;
  gap: 8px 16px;
  grid-template-columns: auto minmax(0, 1fr) auto;
  padding: 12px 16px;
}

.stopped {
  border-left: 5px solid var(--copper);
}

.left {
  align-items: baseline;
  display: flex;
  gap: 8px;
}

.big {
  font-size: 34px;
  line-height: 1;
}

.shows {
  display: grid;
  font-size: 24px;
  justify-items: end;
  line-height: 1.15;
}

.shows span + span {
  font-size: 19px;
}

.wide {
  grid-column: 1 / -1;
}

.rings {
  background: repeating-linear-gradient(-45deg, var(--copper-tint) 0 8px, transparent 8px 16px), var(--sheet);
  border-left: 4px solid var(--copper);
  font-weight: 650;
  padding: 6px 12px;
}

dl {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin: 0;
}

dt {
  color: var(--muted);
  font-size: 14px;
}

dd {
  font-family: var(--mono);
  font-size: 15px;
  margin: 0;
}

.acts {
  align-items: center;
  display: flex;
  gap: 18px;
}

.end {
  align-items: end;
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 10px;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  padding-top: 10px;
}
</style>
