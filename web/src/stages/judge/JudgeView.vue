<script setup lang="ts">
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { Refusal } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import Caution from '@/bench/Caution.vue'
import DidAndThen from '@/bench/DidAndThen.vue'
import MoreSaid from '@/bench/MoreSaid.vue'
import NextButton from '@/bench/NextButton.vue'
import StageButton from '@/bench/StageButton.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { ampHours } from '@/composables/format'
import { type From, vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import BeliefBand from '@/figures/BeliefBand.vue'
import { stagePath } from '@/router'
import CauseList from './CauseList.vue'
import GroupsHold from './GroupsHold.vue'
import NextTests from './NextTests.vue'
import OwnRuling from './OwnRuling.vue'
import { chanceWords, percentOf, useJudgement } from './useJudgement'

/** An argument: the cause as a sentence, what speaks for and against, and the next test as the thing to press. */
const job = useJob()
const { data: judged, error } = useJudgement()
const judgement = computed(() => judged.value?.judgement ?? null)
const lead = computed(() => judgement.value?.causes[0] ?? null)
const ruling = computed(() => judged.value?.ruling ?? null)
// Once it is mended, what is argued here is what it had when it came.
const mended = computed(() => judged.value?.before_repair ?? false)
const clear = computed(() => (lead.value?.probability ?? 0) >= 0.5)
// Level groups alone prove nothing while something else is believed to be wrong.
const fine = computed(() => !lead.value || lead.value.cause === 'sound' || ruling.value?.cause === 'sound' || (!clear.value && !judgement.value?.enough))
const closed = computed(() => job.value.assessment.closed !== null)
const overruling = ref(false)

const assessed = computed(() => job.value.assessment.probe)
const verdict = computed(() => assessed.value?.verdict ?? null)
const grave = computed(() => !mended.value && ['overcharged', 'reversed_or_dead_group', 'group_under_floor'].includes(verdict.value?.kind ?? ''))
// Nothing is headed by the readings alone while the evidence is still being weighed: it would change under the eye.
const heading = computed(() => {
  if (grave.value && verdict.value) return verdict.value.headline
  if (lead.value) return clear.value ? lead.value.says : 'Not settled yet'
  if (!verdict.value) return 'Nothing to judge yet'
  return judged.value || error.value ? verdict.value.headline : 'Weighing the evidence'
})
const all = (what: string): From => ({ what, set: assessed.value, groups: 'all' })
// What was measured of single groups, and counts in the figures.
const measured = computed(() =>
  (job.value.assessment.groups ?? []).flatMap((g) => [
    ...(g.capacity_ah ? [{ key: `c${g.group}`, words: `Group ${g.group} holds ${ampHours(g.capacity_ah.value)} Ah`, source: g.capacity_ah.source }] : []),
    ...(g.resistance_ohm ? [{ key: `r${g.group}`, words: `Group ${g.group} has ${(g.resistance_ohm.value * 1000).toFixed(1)} mΩ`, source: g.resistance_ohm.source }] : []),
    ...(g.leak_mah_day ? [{ key: `l${g.group}`, words: `Group ${g.group} loses ${g.leak_mah_day.value.toFixed(1)} mAh a day beyond its siblings`, source: g.leak_mah_day.source }] : []),
  ]),
)
const { data: terms } = useTermsQuery()
const counted = computed(() => Object.entries(judged.value?.confirmed ?? {}).map(([key, n]) => `${terms.value?.causes.find((c) => c.key === key)?.name ?? key} ${n} ×`))
// What packs of its pattern had: half of the belief beforehand goes by it.
const ofModel = computed(() => Object.entries(judged.value?.of_model ?? {}).filter(([, n]) => n > 0).toSorted(([, a], [, b]) => b - a).slice(0, 4).map(([key, n]) => `${terms.value?.causes.find((c) => c.key === key)?.name ?? key} ${Number(n.toFixed(1))} ×`))
</script>

<template>
  <StageLayout>
    <section class="judge">
      <header :aria-busy="!judged && !error">
        <h1 :class="{ bad: grave }">{{ heading }}</h1>
        <p v-if="lead" class="sure"><template v-if="clear && !grave">{{ chanceWords(lead.probability) }}, {{ percentOf(lead.probability) }}</template><template v-else-if="clear">{{ lead.says }}: {{ chanceWords(lead.probability) }}, {{ percentOf(lead.probability) }}</template><template v-else>likeliest so far: {{ lead.says.charAt(0).toLowerCase() + lead.says.slice(1) }}, {{ percentOf(lead.probability) }}</template></p>
        <p v-if="mended" class="ruled"><strong>As it came.</strong> It was mended since, and its proof does not fail: <RouterLink :to="stagePath(job.facts.id, 'prove')">Prove</RouterLink> shows how it is now.</p>
        <p v-else-if="verdict && !grave" v-from="all(verdict.headline)" class="muted">By the readings alone: {{ verdict.headline.charAt(0).toLowerCase() + verdict.headline.slice(1) }}.</p>
        <p v-if="ruling" class="ruled"><strong>{{ ruling.confirmed ? 'Confirmed' : 'Overruled' }}</strong> by {{ ruling.by }}<template v-if="ruling.reason">: {{ ruling.reason }}</template></p>
      </header>
      <p v-if="error" class="error" role="alert">{{ error instanceof Refusal ? error.message : 'The judgement cannot be computed.' }}</p>
      <template v-if="judgement">
        <CauseList :causes="judgement.causes" :from="all('What the readings show')" />
        <NextTests v-if="!mended" :tests="judgement.next_tests" :enough="judgement.enough" :closed="closed" />
        <section v-if="judged!.moved.steps.length">
          <h2>How the chances changed</h2>
          <BeliefBand :moved="judged!.moved" />
        </section>
      </template>
      <DidAndThen />
      <GroupsHold />
      <p v-if="!verdict" class="muted">No group is read yet: <RouterLink :to="stagePath(job.facts.id, 'probe')">Probe</RouterLink> does that.</p>
    </section>
    <template v-if="mended" #judgement>
      <section class="why">
        <p class="label">What it had</p>
        <p class="because">{{ lead?.says }}. This page judges what was said and read before the repair; what was read after it is in Prove.</p>
      </section>
      <StageButton v-if="!job.assessment.frozen" to="prove">Show how it is now</StageButton>
    </template>
    <template v-else #judgement>
      <section v-if="judgement" class="why">
        <p class="label">What to do</p>
        <p class="because">{{ judgement.because }}</p>
      </section>
      <Caution v-for="hazard in judgement?.hazards ?? []" :key="hazard" title="Before anything else" grave>{{ hazard }}</Caution>
      <section v-if="judgement?.doubts.length" class="why">
        <p class="label">In doubt</p>
        <p v-for="doubt in judgement.doubts" :key="doubt">{{ doubt }}</p>
      </section>
      <template v-if="verdict">
        <section class="why">
          <p class="label">Because of the readings</p>
          <p v-for="reason in verdict.reasons" :key="reason" v-from="all(verdict.headline)">{{ reason }}</p>
          <MoreSaid :more="verdict.more ?? []" />
        </section>
        <section v-if="measured.length" class="why">
          <p class="label">Measured of single groups</p>
          <p v-for="m in measured.slice(0, 6)" :key="m.key" v-from="{ what: m.words, words: m.source }">{{ m.words }}.</p>
          <p v-if="measured.length > 6" class="muted">and {{ measured.length - 6 }} more, in Measures</p>
        </section>
        <section v-if="verdict.settles" class="why">
          <p class="label">Next reading</p>
          <p>{{ verdict.settles }}</p>
        </section>
        <Caution v-for="caution in verdict.cautions ?? []" :key="caution" :title="grave ? 'Not to be charged' : 'With care'" :grave="grave">{{ caution }}</Caution>
        <section v-for="line in judged?.reopened ?? []" :key="line" class="why"><p class="label">Open again</p><p>{{ line }}</p></section>
        <template v-if="!job.assessment.frozen">
          <NextButton v-if="job.assessment.next && !['judge', 'plan'].includes(job.assessment.next.stage)" but="judge" />
          <StageButton v-else-if="verdict.kind === 'imbalanced'" to="level">Level the low groups</StageButton>
          <StageButton v-else-if="verdict.kind === 'run_flat'" to="level">Pre-charge the run-flat groups</StageButton>
          <StageButton v-else-if="verdict.kind === 'sound'" to="prove" :quiet="!fine">{{ fine ? 'Prove it' : 'Prove it all the same' }}</StageButton>
          <RouterLink v-else-if="verdict.kind === 'output_open' || verdict.kind === 'terminals_differ'" :to="`/jobs/${job.facts.id}/measures?of=path`" class="go-path">Go along the power path</RouterLink>
          <StageButton v-else-if="verdict.kind === 'overcharged'" to="probe">Read it on the cell’s own tabs</StageButton>
          <template v-else-if="grave"><StageButton to="hand_over">Close with what was found</StageButton></template>
          <StageButton v-else to="probe">Back to Probe</StageButton>
          <StageButton to="plan" quiet>Compare repairs</StageButton>
          <StageButton v-if="verdict.kind === 'sound' || verdict.kind === 'cannot_tell'" to="level" quiet>Level all the same</StageButton>
        </template>
      </template>
      <NextButton v-if="!verdict && !job.assessment.frozen" but="judge" />
      <section v-if="judged && !job.assessment.frozen" class="why">
        <button v-if="!overruling" type="button" class="linklike own" @click="overruling = true">Name another cause</button>
        <OwnRuling v-else :confirms="false" :leading="lead?.cause ?? null" :groups="lead?.at.groups ?? []" @done="overruling = false" />
        <p v-if="ofModel.length" class="muted small">Packs of this pattern had: {{ ofModel.join(', ') }}.</p>
        <p v-if="counted.length" class="muted small">Confirmed by this shop before, and counted: {{ counted.join(', ') }}.</p>
      </section>
    </template>
  </StageLayout>
</template>

<style scoped>
.judge {
  display: grid;
  gap: 16px;
  grid-template-columns: minmax(0, 1fr);
}

header {
  display: grid;
  gap: 3px;
}

h1 {
  font-size: 30px;
}

.bad {
  color: var(--hazard);
}

.sure {
  font-size: 18px;
}

.ruled {
  border-left: 4px solid var(--petrol);
  padding-left: 10px;
}

.why {
  display: grid;
  gap: 7px;
}

.because {
  font-size: 17px;
}

.own {
  justify-self: start;
  margin: 0;
}

.go-path {
  align-items: center;
  background: var(--petrol);
  color: var(--paper);
  display: inline-flex;
  font-weight: 650;
  justify-content: center;
  min-height: 48px;
  padding: 0 18px;
  text-decoration: none;
}
</style>
