<script setup lang="ts">
import { wholeAh } from '@/composables/build'
import TermWord from '@/bench/TermWord.vue'
import { computed } from 'vue'
import { ampHours } from '@/composables/format'
import { type From, vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import ChargeTroughs from '@/figures/ChargeTroughs.vue'

/** What the <TermWord of="group">groups</TermWord> hold, what stops charger and tool on the axis of the stack, and what the imbalance costs. */
const job = useJob()
const assessed = computed(() => job.value.assessment.probe)
const verdict = computed(() => assessed.value?.verdict ?? null)
const settled = computed(() => ['sound', 'imbalanced', 'output_open', 'terminals_differ'].includes(verdict.value?.kind ?? ''))
const balance = computed(() => (settled.value ? (verdict.value?.balance ?? null) : null))
const partly = computed(() => (!settled.value && verdict.value?.kind !== 'readings_inconsistent' ? (verdict.value?.balance ?? null) : null))
const all = (what: string): From => ({ what, set: assessed.value, groups: 'all' })
const sourceOf = (group: number): From => ({ what: `Group ${group}`, set: assessed.value, groups: [group] })
const barred = computed(() => (verdict.value?.barred ?? []).map((b) => b.group))
</script>

<template>
  <section v-if="verdict" class="hold">
    <h2>What the groups hold</h2>
    <dl v-if="balance" class="amounts">
      <div v-from="all('Usable now')"><dt><TermWord of="usable_charge">usable now</TermWord></dt><dd class="figure">{{ ampHours(balance.usable_now_ah) }} Ah</dd><dd class="muted">{{ ampHours(balance.usable_now_low_ah) }} to {{ ampHours(balance.usable_now_high_ah) }}</dd></div>
      <div v-from="{ what: 'Once levelled', words: `the rated capacity, ${wholeAh(job.facts.intake.pack)} Ah, as taken in` }"><dt>once <TermWord of="levelled">levelled</TermWord></dt><dd class="figure">{{ ampHours(balance.usable_levelled_ah) }} Ah</dd><dd class="muted">if the rated capacity is there</dd></div>
      <div v-if="balance.lost_fraction !== null && balance.lost_ah !== null" v-from="all('Lost to imbalance')" :class="{ cost: verdict.kind === 'imbalanced' }"><dt>lost to <TermWord of="imbalance">imbalance</TermWord></dt><dd class="figure">{{ Math.round(balance.lost_fraction * 100) }} %</dd><dd class="muted">{{ ampHours(balance.lost_ah) }} Ah</dd></div>
      <div v-else><dt>lost to imbalance</dt><dd class="figure">?</dd><dd class="muted">the voltages do not tell</dd></div>
    </dl>
    <dl v-if="verdict.charger || verdict.tool" class="stops">
      <template v-if="verdict.charger"><dt>Charger</dt><dd v-from="all('Charger')">{{ verdict.charger }}</dd></template>
      <template v-if="verdict.tool"><dt>Tool</dt><dd v-from="all('Tool')">{{ verdict.tool }}</dd></template>
    </dl>
    <ChargeTroughs v-if="balance ?? partly" :from="sourceOf" :balance="(balance ?? partly)!" :barred="barred" />
    <p v-else class="muted nothing">Shown here once each voltage is settled and the readings agree.</p>
  </section>
</template>

<style scoped>
.hold {
  display: grid;
  gap: 9px;
  grid-template-columns: minmax(0, 1fr);
}

.amounts {
  border-bottom: 1px solid var(--rule);
  border-top: 1px solid var(--ink);
  display: flex;
  flex-wrap: wrap;
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
  font-size: 30px;
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

.nothing {
  border-top: 1px solid var(--rule);
  max-width: 52ch;
  padding-top: 10px;
}
</style>
