<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import Caution from '@/bench/Caution.vue'
import MoreSaid from '@/bench/MoreSaid.vue'
import DidAndThen from '@/bench/DidAndThen.vue'
import StageButton from '@/bench/StageButton.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { ampHours } from '@/composables/format'
import { type From, vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import ChargeTroughs from '@/figures/ChargeTroughs.vue'
import { stagePath } from '@/router'

const job = useJob()
const assessed = computed(() => job.value.assessment.probe)
const verdict = computed(() => assessed.value?.verdict ?? null)
const grave = computed(() => ['overcharged', 'reversed_or_dead_group', 'group_under_floor'].includes(verdict.value?.kind ?? ''))
const settled = computed(() => ['sound', 'imbalanced', 'output_open', 'terminals_differ'].includes(verdict.value?.kind ?? ''))
const balance = computed(() => (settled.value ? (verdict.value?.balance ?? null) : null))
const partly = computed(() => (!settled.value && verdict.value?.kind !== 'readings_inconsistent' ? (verdict.value?.balance ?? null) : null))
const all = (what: string): From => ({ what, set: assessed.value, groups: 'all' })
const of = (group: number): From => ({ what: `Group ${group}`, set: assessed.value, groups: [group] })
// What was measured of single groups, and counts in the figures above.
const measured = computed(() =>
  (job.value.assessment.groups ?? []).flatMap((g) => [
    ...(g.capacity_ah ? [{ key: `c${g.group}`, words: `Group ${g.group} holds ${ampHours(g.capacity_ah.value)} Ah`, told: g.capacity_ah.told }] : []),
    ...(g.resistance_ohm ? [{ key: `r${g.group}`, words: `Group ${g.group} has ${(g.resistance_ohm.value * 1000).toFixed(1)} mΩ`, told: g.resistance_ohm.told }] : []),
    ...(g.leak_mah_day ? [{ key: `l${g.group}`, words: `Group ${g.group} loses ${g.leak_mah_day.value.toFixed(1)} mAh a day beyond its siblings`, told: g.leak_mah_day.told }] : []),
  ]),
)
const barred = computed(() => (verdict.value?.barred ?? []).map((b) => b.group))
</script>

<template>
  <StageLayout>
    <section v-if="verdict" class="judge">
      <h1 :class="{ bad: grave }">{{ verdict.headline }}</h1>
      <dl v-if="balance" class="amounts">
        <div v-from="all('Usable now')"><dt>usable now</dt><dd class="figure">{{ ampHours(balance.usable_now_ah) }} Ah</dd><dd class="muted">{{ ampHours(balance.usable_now_low_ah) }} to {{ ampHours(balance.usable_now_high_ah) }}</dd></div>
        <div v-from="{ what: 'Once levelled', words: `the rated capacity, ${job.facts.intake.pack.rated_ah} Ah, as taken in` }"><dt>once levelled</dt><dd class="figure">{{ ampHours(balance.usable_levelled_ah) }} Ah</dd><dd class="muted">if the rated capacity is there</dd></div>
        <div v-if="balance.lost_fraction !== null && balance.lost_ah !== null" v-from="all('Lost to imbalance')" :class="{ cost: verdict.kind === 'imbalanced' }"><dt>lost to imbalance</dt><dd class="figure">{{ Math.round(balance.lost_fraction * 100) }} %</dd><dd class="muted">{{ ampHours(balance.lost_ah) }} Ah</dd></div>
        <div v-else><dt>lost to imbalance</dt><dd class="figure">?</dd><dd class="muted">the voltages do not tell</dd></div>
      </dl>
      <dl v-if="verdict.charger || verdict.tool" class="stops">
        <template v-if="verdict.charger"><dt>Charger</dt><dd v-from="all('Charger')">{{ verdict.charger }}</dd></template>
        <template v-if="verdict.tool"><dt>Tool</dt><dd v-from="all('Tool')">{{ verdict.tool }}</dd></template>
      </dl>
      <ChargeTroughs v-if="balance ?? partly" :from="of" :balance="(balance ?? partly)!" :barred="barred" />
      <p v-else class="muted nothing">What each group holds is shown here once its voltage is settled and the readings agree.</p>
      <DidAndThen />
    </section>
    <section v-else>
      <h1>Nothing to judge yet</h1>
      <p class="muted">Read the groups in <RouterLink :to="stagePath(job.facts.id, 'probe')">Probe</RouterLink>; the verdict writes itself.</p>
      <DidAndThen />
    </section>
    <template #judgement>
      <template v-if="verdict">
        <section class="why">
          <p class="label">Because</p>
          <p v-for="reason in verdict.reasons" :key="reason" v-from="all(verdict.headline)">{{ reason }}</p>
          <MoreSaid :more="verdict.more ?? []" />
        </section>
        <section v-if="measured.length" class="why">
          <p class="label">Measured of single groups</p>
          <p v-for="m in measured.slice(0, 6)" :key="m.key" v-from="{ what: m.words, words: m.told }">{{ m.words }}.</p>
          <p v-if="measured.length > 6" class="muted">and {{ measured.length - 6 }} more, in Measures</p>
        </section>
        <section v-if="verdict.settles" class="why">
          <p class="label">Would settle it</p>
          <p>{{ verdict.settles }}</p>
        </section>
        <Caution v-for="caution in verdict.cautions ?? []" :key="caution" :title="grave ? 'Not to be charged' : 'With care'" :grave="grave">{{ caution }}</Caution>
        <template v-if="!job.assessment.frozen">
          <StageButton v-if="verdict.kind === 'imbalanced'" to="level">Level the low groups</StageButton>
          <StageButton v-else-if="verdict.kind === 'run_flat'" to="level">Pre-charge the run-flat groups</StageButton>
          <StageButton v-else-if="verdict.kind === 'sound'" to="prove">Prove it</StageButton>
          <RouterLink v-else-if="verdict.kind === 'output_open' || verdict.kind === 'terminals_differ'" :to="`/jobs/${job.facts.id}/measures?of=path`" class="go-path">Go along the power path</RouterLink>
          <StageButton v-else-if="verdict.kind === 'overcharged'" to="probe">Read it on the cell’s own tabs</StageButton>
          <template v-else-if="grave"><StageButton to="hand_over">Close with what was found</StageButton></template>
          <StageButton v-else to="probe">Back to Probe</StageButton>
          <StageButton v-if="verdict.kind === 'sound' || verdict.kind === 'cannot_tell'" to="level" quiet>Level all the same</StageButton>
        </template>
      </template>
    </template>
  </StageLayout>
</template>

<style scoped>
.judge {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 11px;
}

.bad {
  color: var(--hazard);
}

.amounts {
  border-bottom: 1px solid var(--rule);
  border-top: 1px solid var(--ink);
  display: flex;
  gap: 14px 44px;
  margin: 0;
  padding: 8px 0;
}

dt {
  color: var(--muted);
  font-size: 14px;
}

dd {
  margin: 0;
}

.amounts .figure {
  font-size: 34px;
  line-height: 1.15;
}

.cost .figure {
  color: var(--copper);
  font-weight: 650;
}

.stops {
  align-items: baseline;
  display: grid;
  font-size: 17px;
  gap: 4px 16px;
  grid-template-columns: auto 1fr;
  margin: 0;
}

.why {
  display: grid;
  gap: 7px;
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

.nothing {
  border-top: 1px solid var(--rule);
  max-width: 52ch;
  padding-top: 14px;
}
</style>
