<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import NumberField from '@/forms/NumberField.vue'
import { computed, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { client, settled } from '@/api/client'
import BeginWait from '@/bench/BeginWait.vue'
import Caution from '@/bench/Caution.vue'
import StageButton from '@/bench/StageButton.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { clock, day } from '@/composables/format'
import { quantity, wrongWith } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import { useNow } from '@/composables/useNow'
import ProbeRun from '@/stages/probe/ProbeRun.vue'
import CheckList from './CheckList.vue'
import ProofTests from './ProofTests.vue'

const job = useJob()
const route = useRoute()
const router = useRouter()
// Shareable: which of the two stands in the address.
const all = computed(() => route.query.of === 'tests')
const show = (part: string) => void router.replace({ query: { ...route.query, of: part || undefined } })
const now = useNow()
const { act, busy, refusal } = useAct()
const proving = computed(() => job.value.assessment.prove)
const proof = computed(() => job.value.assessment.proof)
const known = computed(() => job.value.assessment.rest ?? null)
const minutes = shallowRef('')
const wrong = shallowRef<string | null>(null)
function ownTime() {
  const ago = quantity(minutes.value, 'min')
  wrong.value = wrongWith(minutes.value, 'min') ?? (ago === null || ago < 0 ? 'type minutes such as 30' : null)
  if (wrong.value === null) void begin(hoursAgo(ago! / 60))
}
const closed = computed(() => job.value.assessment.closed !== null)
const resting = computed(() => job.value.assessment.waiting.find((w) => w.kind === 'rest') ?? null)
const restLeft = computed(() => (resting.value ? Math.ceil((new Date(resting.value.done).getTime() - now.value) / 60000) : 0))

const since = (iso: string) => (new Date(iso).toDateString() === new Date(now.value).toDateString() ? clock(iso) : `${day(iso)} ${clock(iso)}`)
const again = shallowRef(false)
async function begin(rest_since: string | null) {
  const view = await act(() =>
    settled(
      client.POST('/api/jobs/{job_id}/sets', {
        params: { path: { job_id: job.value.facts.id } },
        body: { purpose: 'prove', condition: 'rest', rest_since, last_current_a: known.value?.amps ?? 0 },
      }),
    ),
  )
  if (view) again.value = false
}
const hoursAgo = (h: number) => new Date(Date.now() - h * 3_600_000).toISOString()
</script>

<template>
  <StageLayout>
    <nav class="tabs" aria-label="Prove by"><button type="button" class="linklike" :aria-current="!all" @click="show('')">readings at rest</button><button type="button" class="linklike" :aria-current="all" @click="show('tests')">every test that is due</button></nav>
    <ProofTests v-if="all" />
    <section v-else-if="closed" class="begin">
      <h1>{{ job.assessment.frozen ? 'Signed off' : 'Not ready to prove' }}</h1>
      <p class="muted">{{ job.assessment.frozen ? 'The proving readings are closed; the limits they met are on the right.' : job.assessment.closed }}</p>
    </section>
    <section v-else-if="!proving || again" class="begin">
      <h1>When did the last current end?</h1>
      <p class="muted">The groups are read once more <TermWord of="at_rest">at rest</TermWord>, against limits computed from the chemistry, the meter and how long they rested.</p>
      <ElButton v-if="known" type="primary" size="large" :loading="busy" @click="begin(known.at)">With {{ known.what }}, {{ day(known.at) }} {{ clock(known.at) }}</ElButton>
      <p v-if="known" class="muted">The job knows of no longer rest; your answer can only shorten it.</p>
      <ElButton size="large" :loading="busy" @click="begin(hoursAgo(0))">Just now</ElButton>
      <ElButton size="large" :loading="busy" @click="begin(hoursAgo(1))">An hour ago</ElButton>
      <ElButton size="large" :loading="busy" @click="begin(hoursAgo(12))">A night ago or more</ElButton>
      <form class="own" @submit.prevent="ownTime">
        <NumberField v-model="minutes" label="Or so many minutes ago" bare unit="min" :error="wrong ?? undefined" />
        <ElButton native-type="submit" size="large" :loading="busy">Begin the readings</ElButton>
      </form>
      <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
    </section>
    <template v-else>
      <p v-if="restLeft > 0" class="rest" role="status"><strong>{{ restLeft }} min of rest are left.</strong> Readings taken before count as not yet.</p>
      <ProbeRun purpose="prove">
        <template #line="{ scheme }">
          Proving readings · {{ scheme === 'taps' ? 'taps against tap 0' : 'group by group' }} · {{ proving.set.rest_since ? `at rest since ${since(proving.set.rest_since)}` : 'rest not known' }}
          <button type="button" class="linklike" @click="begin(proving.set.rest_since ?? null)">begin again</button> <button type="button" class="linklike" @click="again = true">change the rest</button>
        </template>
      </ProbeRun>
    </template>
    <template #judgement>
      <CheckList v-if="proof" :proof="proof" :set="proving" />
      <p v-else class="muted">Six checks: rest, every group, agreement, spread, window, sum.</p>
      <BeginWait kind="self_discharge" />
      <Caution v-if="!closed" v-from="{ what: 'Highest voltage', words: 'the build as taken in: groups in series, each at its full voltage' }" :title="`${job.assessment.hazard?.highest_v.toFixed(0) ?? '?'} V across the string.`">A full pack gives its whole short-circuit current. One tip sleeved, rings off.</Caution>
      <StageButton v-if="!closed && proof" :key="proof.result" to="hand_over" :quiet="proof.result !== 'pass'">{{ proof.result === 'pass' ? 'Go on to Hand over' : 'Hand over without a pass' }}</StageButton>
    </template>
  </StageLayout>
</template>

<style scoped>
.tabs {
  display: flex;
  gap: 22px;
  padding-bottom: 8px;
}

.tabs [aria-current='true'] {
  border-bottom: 3px solid var(--copper);
  color: var(--ink);
  font-weight: 700;
  text-decoration: none;
}

.begin {
  display: grid;
  gap: 12px;
  justify-items: start;
  max-width: 640px;
}

.own {
  align-items: end;
  display: flex;
  gap: 12px;
}

.rest {
  background: repeating-linear-gradient(-45deg, var(--copper-tint) 0 8px, transparent 8px 16px);
  margin-bottom: 10px;
  padding: 7px 12px;
}
</style>
