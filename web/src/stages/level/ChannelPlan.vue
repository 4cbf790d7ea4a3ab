<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import NumberField from '@/forms/NumberField.vue'
import { computed, onUnmounted, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import FieldRow from '@/bench/FieldRow.vue'
import ReadAt from '@/bench/ReadAt.vue'
import { ampHours, clock, duration, volts } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useFigure } from '@/composables/useFigure'
import { useJob } from '@/composables/useJob'
import { useOutputs } from '@/composables/useOutputs'
import PlanBars from '@/figures/PlanBars.vue'
import DriveOn from './DriveOn.vue'
import { attended, type PlanTarget, usePlan } from './usePlan'

/** The levelling over the shop's channels: what goes where and when, the clips read before anything is switched on. */
const job = useJob()
const target = ref<PlanTarget>('match')
const rest = ref('')
const { plan: asked, anew, options, hours, without, wantsOptions } = usePlan(target, rest)
const found = computed(() => asked.data.value ?? null)
const plan = computed(() => found.value?.plan ?? null)
const said = computed(() => (asked.error.value instanceof Refusal ? asked.error.value : null))
type Step = Schemas['PlanStep']
const picked = ref<Step | null>(null)
// What can be clipped on now: nothing before it on its channel.
const next = computed(() => plan.value?.steps.find((s) => s.kind !== 'harness' && s.kind !== 'bleed' && s.start_s < 60) ?? null)
// What was picked stays picked when the plan is reckoned anew: the same step, else the same group wherever it is charged now.
const kept = computed(() => {
  const was = picked.value
  const alike = was ? (plan.value?.steps.filter((s) => s.group === was.group && s.kind === was.kind) ?? []) : []
  return alike.find((s) => s === was) ?? alike.find((s) => s.channel === was!.channel) ?? alike[0]
})
const chosen = computed(() => kept.value ?? next.value ?? plan.value?.steps[0] ?? null)
const channel = computed(() => found.value?.channels.find((c) => c.name === chosen.value?.channel) ?? null)
const now = computed(() => chosen.value !== null && chosen.value.start_s < 60 && channel.value?.kind === 'single' && !job.value.assessment.frozen)
const { outputs } = useOutputs(ref(true))
const output = computed(() => outputs.value?.find((o) => o.channel === chosen.value?.channel) ?? null)
// The two taps that the clips go to stand out in the figure.
const figure = useFigure()
watch(() => (anew.value ? null : chosen.value), (step) => (figure.lit.value = step && now.value && step.kind !== 'harness' ? { kind: 'span', from_tap: step.group - 1, to_tap: step.group } : null), { immediate: true })
onUnmounted(() => (figure.lit.value = null))
const { act, busy, refusal } = useAct()
watch(chosen, () => (refusal.value = null))
const at = (s: number) => clock(new Date((found.value?.from ?? 0) + s * 1000).toISOString())

async function clip(read: number) {
  const step = chosen.value!
  const body = { group: step.group, target: target.value === 'rest' ? ('match' as const) : target.value, current_a: null, stand_in: false, channel: step.channel, clip_v: read, driven: false, rest_v: plan.value!.target_rest_v }
  return act(() => settled(client.POST('/api/jobs/{job_id}/charges', { params: { path: { job_id: job.value.facts.id } }, body })))
}
function use(name: string) {
  without.value = without.value.includes(name) ? without.value.filter((n) => n !== name) : [...without.value, name]
}
const refused = computed(() => {
  const by = new Map<string, number[]>()
  for (const r of plan.value?.refused ?? []) by.set(r.because, [...(by.get(r.because) ?? []), r.group])
  return [...by]
})
const KIND: Record<Step['kind'], string> = { precharge: 'pre-charge', charge: 'charge', timed: 'timed', bleed: 'let down', harness: 'by the plug' }
const over = computed(() => (plan.value && plan.value.finish_s > plan.value.bound_s * 1.02 ? `no plan could end before ${at(plan.value.bound_s)}` : 'as soon as these channels can'))
</script>

<template>
  <section class="plan">
    <div class="question">
      <FieldRow label="Level to" group>
        <ElRadioGroup v-model="target" aria-label="Plan to">
          <ElRadioButton value="match">match</ElRadioButton>
          <ElRadioButton value="full">full</ElRadioButton>
          <ElRadioButton value="storage">storage</ElRadioButton>
          <ElRadioButton value="rest">a voltage</ElRadioButton>
        </ElRadioGroup>
      </FieldRow>
      <NumberField v-if="target === 'rest'" v-model.lazy="rest" label="At rest" unit="V" :error="said?.on('target')" placeholder="3.90" />
      <FieldRow label="Somebody is here from, until" group><span class="hours"><input v-model="hours.from" type="time" class="time" aria-label="here from" /><input v-model="hours.until" type="time" class="time" aria-label="here until" /></span></FieldRow>
    </div>
    <div v-if="found" class="chips" role="group" aria-label="Channels at hand"><span class="label"><TermWord of="channel">Channels</TermWord></span><button v-for="c in found.channels" :key="c.name" type="button" class="chip" :aria-pressed="!without.includes(c.name)" :disabled="found.busy.includes(c.name)" @click="use(c.name)">{{ c.name }}{{ found.busy.includes(c.name) ? ', in use' : '' }}</button></div>
    <p v-if="said && !said.on('target')" class="error" role="alert">{{ said.message }} <RouterLink to="/instruments">Instruments</RouterLink></p>
    <p v-if="!found && !said" class="planning" role="status">Planning over the channels</p>
    <template v-if="plan && plan.steps.length && found">
      <p v-if="anew" class="done" role="status">Planning over the channels</p>
      <p v-else class="done">All at <span class="mono">{{ volts(plan.target_rest_v, 2) }} V</span> by <strong>{{ at(plan.finish_s) }}</strong><span class="muted">, in {{ duration(plan.finish_s) }}, {{ over }}; one after the other {{ duration(plan.one_by_one_s) }}</span></p>
      <PlanBars :steps="plan.steps" :channels="found.channels.map((c) => c.name)" :finish="plan.finish_s" :bound="plan.bound_s" :attended="attended(hours.until, hours.from)" :from="found.from" :chosen="chosen" @choose="picked = $event" />
      <section v-if="chosen && !anew" class="step" aria-live="polite">
        <p class="label">{{ now ? 'Next to clip on' : `At ${at(chosen.start_s)}` }}, {{ KIND[chosen.kind] }}</p>
        <h2>{{ chosen.kind === 'harness' ? 'All groups' : `Group ${chosen.group}` }} on {{ chosen.channel }}</h2>
        <p>{{ chosen.because }}</p>
        <dl><div><dt>set</dt><dd>{{ volts(chosen.stop_at.volts, 3) }} V</dd></div><div><dt>at most</dt><dd>{{ chosen.current_a }} A</dd></div><div><dt>reads at first</dt><dd>{{ volts(chosen.expect_start_v, 2) }} V</dd></div><div><dt>takes</dt><dd>{{ duration(chosen.duration_low_s) }} – {{ duration(chosen.duration_high_s) }}</dd></div><div><dt>charge</dt><dd>{{ ampHours(chosen.charge_ah) }} Ah</dd></div><div><dt>look after</dt><dd>{{ chosen.look_again_s.map(duration).join(', ') }}</dd></div></dl>
        <DriveOn v-if="now && output && !output.cannot" :key="`drive ${chosen.channel} ${chosen.group}`" :step="chosen" :output="output" :target="target === 'rest' ? 'match' : target" :rest-v="plan.target_rest_v" />
        <ReadAt v-else-if="now" :key="`${chosen.channel} ${chosen.group}`" :what="`${chosen.channel} off, its clips on: minus tap ${chosen.group - 1}, plus tap ${chosen.group}. What do they read?`" :label="`clips on group ${chosen.group} read, V`" :expected="null" :most="60" :probes="{ at: 'taps', black: chosen.group - 1, red: chosen.group }" :busy="busy" :keep="clip" />
        <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
      </section>
    </template>
    <p v-else-if="plan" class="done">Nothing to do over these channels.</p>
    <p v-for="line in plan?.says ?? []" :key="line">{{ line }}</p>
    <p v-for="[because, groups] in refused" :key="because" class="muted">{{ groups.length > 1 ? 'Groups' : 'Group' }} {{ groups.join(', ') }}: {{ because }}</p>
    <details v-if="plan" @toggle="wantsOptions = ($event.target as HTMLDetailsElement).open">
      <summary>Other ways, side by side</summary>
      <p v-if="options.isLoading.value" role="status">Each way is planned; some seconds.</p>
      <table v-if="options.data.value">
        <thead><tr><th>way</th><th class="number">all by</th><th class="number">in</th><th class="number">at, V</th><th class="number">left out</th></tr></thead>
        <tbody><tr v-for="o in options.data.value" :key="o.code"><td><strong v-if="o.now">{{ o.says }}</strong><template v-else>{{ o.says }}</template></td><td class="number">{{ at(o.finish_s) }}</td><td class="number">{{ duration(o.finish_s) }}</td><td class="number">{{ volts(o.target_rest_v, 2) }}</td><td class="number">{{ o.left || '–' }}</td></tr></tbody>
      </table>
    </details>
  </section>
</template>

<style scoped>
.plan,
.step {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
}

/* Room for the plan, so that nothing moves under the hand when it is there. */
.planning {
  color: var(--muted);
  min-height: 560px;
}

.question {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px 20px;
}

.question :deep(.el-input) {
  width: 110px;
}

.hours {
  display: flex;
  gap: 8px;
}

.time {
  background: var(--field);
  border: 1px solid var(--muted);
  color: var(--ink);
  font: inherit;
  height: 44px;
  padding: 0 8px;
}

.done {
  font-size: 20px;
}

.done .muted {
  font-size: 16px;
}

.step {
  border-left: 4px solid var(--copper);
  padding-left: 14px;
}

dl {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
  margin: 0;
}

dt {
  color: var(--muted);
  font-size: 14px;
}

dd {
  font-family: var(--mono);
  font-size: 20px;
  margin: 0;
}
</style>
