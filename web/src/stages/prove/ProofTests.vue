<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { client, type Schemas, settled } from '@/api/client'
import Caution from '@/bench/Caution.vue'
import { duration } from '@/composables/format'
import { useJob } from '@/composables/useJob'
import { stagePath } from '@/router'
import TestForm from './TestForm.vue'

/** Everything the repair is to be proved by: each test with its limit, its forecast and what came of it; those that are due first. */
type Test = Schemas['ProofTest']
const job = useJob()
const id = computed(() => job.value.facts.id)
const { data: plan } = useQuery({
  queryKey: computed(() => ['proof-plan', id.value, job.value.facts.last_id]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/proof-plan', { params: { path: { job_id: id.value } } })),
  placeholderData: (before) => before,
})
const WORD: Record<Test['outcome'], string> = { pass: 'holds', fail: 'fails', not_yet: 'not yet', not_done: 'not done' }
// Where each test is taken: here by its own form, or where such readings are taken anyway.
const WHERE: Partial<Record<Test['name'], { to: string; says: string }>> = {
  wiggle: { to: 'measures', says: 'Measures, wiggle test' },
  sensors: { to: 'measures', says: 'Measures, sensors' },
  load_step: { to: 'probe', says: 'Probe, a set under load' },
  capacity: { to: 'measures', says: 'Measures, capacity' },
  gauge: { to: 'chip', says: 'Chip' },
}
const HERE = new Set<Test['name']>(['full_charge', 'load_run', 'joint', 'board'])
const STAGE = { judge: 'Judge', join: 'Join', level: 'Level' } as const
const open = ref<Test['name'] | null>(null)
const due = computed(() => (plan.value?.tests ?? []).filter((t) => t.due))
const others = computed(() => (plan.value?.tests ?? []).filter((t) => !t.due))
const closed = computed(() => job.value.assessment.frozen || job.value.assessment.closed !== null)
</script>

<template>
  <section v-if="plan" class="plan">
    <h1>{{ plan.says }}</h1>
    <p v-if="plan.bench_min" class="muted">{{ plan.bench_min.toFixed(0) }} minutes at the bench are left, and {{ duration(plan.wait_h * 3600) }} of waiting at the longest.</p>
    <template v-for="[title, tests] in [['Due after this repair', due], ['Not asked by it', others]] as const" :key="title">
      <h2>{{ title }}</h2>
      <article v-for="t in tests" :key="t.name" class="test" :class="[t.outcome, { due: t.due }]" :aria-label="t.label">
        <svg width="22" height="22" viewBox="0 0 20 20" aria-hidden="true">
          <path v-if="t.outcome === 'pass'" d="M3 11l5 5L17 5" />
          <path v-else-if="t.outcome === 'fail'" d="M4 4l12 12M4 16L16 4" />
          <circle v-else-if="t.outcome === 'not_yet'" cx="10" cy="10" r="6.5" />
          <path v-else d="M4 10h12" />
        </svg>
        <div>
          <p><strong>{{ t.label }}</strong> <span class="word">{{ WORD[t.outcome] }}</span> <span class="muted">{{ t.bench_min }} min<template v-if="t.wait_h">, {{ duration(t.wait_h * 3600) }} of waiting</template></span></p>
          <p class="muted">{{ t.why }}</p>
          <dl><div><dt>limit</dt><dd>{{ t.limit }}</dd></div><div v-if="t.forecast"><dt>forecast</dt><dd>{{ t.forecast }}</dd></div><div v-if="t.measured"><dt>measured</dt><dd>{{ t.measured }}</dd></div></dl>
          <p :class="{ error: t.outcome === 'fail' }">{{ t.because }}</p>
          <p class="acts">
            <RouterLink v-if="t.then" :to="stagePath(id, t.then)" class="back">Back to {{ STAGE[t.then] }}</RouterLink>
            <template v-if="!closed"><ElButton v-if="HERE.has(t.name)" @click="open = open === t.name ? null : t.name">{{ open === t.name ? 'Close the form' : t.outcome === 'not_done' ? 'Record the result' : 'Record it again' }}</ElButton><RouterLink v-else-if="WHERE[t.name]" :to="stagePath(id, WHERE[t.name]!.to)">{{ WHERE[t.name]!.says }}</RouterLink></template>
          </p>
          <template v-if="open === t.name">
            <Caution v-if="t.caution" :title="`Before the ${t.label.toLowerCase()}`">{{ t.caution }}</Caution>
            <TestForm :name="t.name" :amps="plan.run_a ?? null" :forecast="plan.run ?? null" @kept="open = null" />
          </template>
        </div>
      </article>
    </template>
    <h2>Not proved</h2>
    <ul class="open"><li v-for="left in plan.not_proved" :key="left">{{ left }}</li></ul>
  </section>
</template>

<style scoped>
.plan {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
}

.test {
  background: var(--sheet);
  border-left: 4px solid var(--rule);
  display: grid;
  gap: 4px 12px;
  grid-template-columns: auto minmax(0, 1fr);
  padding: 10px 14px;
}

.test > div {
  display: grid;
  gap: 4px;
}

.due {
  border-color: var(--petrol);
}

.due.fail {
  border-color: var(--hazard);
}

svg {
  fill: none;
  stroke: var(--petrol);
  stroke-width: 2.6;
}

.fail svg {
  stroke: var(--hazard);
}

.not_yet circle,
.not_done path {
  stroke: var(--muted);
  stroke-dasharray: 4 3;
}

.word {
  font-weight: 650;
}

dl {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 22px;
  margin: 0;
}

dl div {
  display: flex;
  gap: 8px;
}

dt {
  color: var(--muted);
  font-size: 14px;
}

dd {
  font-family: var(--mono);
  font-size: 14px;
  margin: 0;
}

.acts {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
}

.back {
  color: var(--hazard);
  font-weight: 700;
}

.open {
  margin: 0;
  padding-left: 20px;
}
</style>
