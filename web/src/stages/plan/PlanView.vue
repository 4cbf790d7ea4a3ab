<script setup lang="ts">
import { duration } from '@/composables/format'
import { computed, ref, shallowRef, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { Refusal } from '@/api/client'
import Caution from '@/bench/Caution.vue'
import NextButton from '@/bench/NextButton.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { useMoney } from '@/composables/useMoney'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'
import PlanScales from '@/figures/PlanScales.vue'
import { stagePath } from '@/router'
import PromiseLine from '@/today/PromiseLine.vue'
import HarvestGroups from './HarvestGroups.vue'
import MatchedCells from './MatchedCells.vue'
import NeedPrices from './NeedPrices.vue'
import OrderList from './OrderList.vue'
import TakeOption from './TakeOption.vue'
import { type Told, usePlan } from './usePlan'

/** The repairs that apply, side by side on common scales; what would change the choice; and the quote. */
const { money } = useMoney()
const job = useJob()
const asked = shallowRef<Told | null>(null)
const { data: planned, error } = usePlan(asked)
const plan = computed(() => planned.value?.plan ?? null)
const open = computed(() => plan.value?.repairs.filter((r) => !r.ruled_out) ?? [])
const out = computed(() => plan.value?.repairs.filter((r) => r.ruled_out) ?? [])
const chosen = ref<string | null>(null)
const shown = computed(() => open.value.find((r) => r.option === chosen.value) ?? open.value.find((r) => r.option === (taken.value ?? plan.value?.best_option)) ?? open.value[0] ?? null)
const taken = computed(() => (planned.value?.accepted ? [planned.value.accepted.repair, ...(planned.value.accepted.also ?? [])].join('+') : null))
const closed = computed(() => job.value.assessment.closed !== null)
const ticked = ref<string[] | null>(null)
const quoted = computed(() => {
  if (ticked.value) return ticked.value
  const wanted = [plan.value?.best_option, plan.value?.least_option, 'original', 'retire'].filter((r): r is NonNullable<typeof r> => !!r)
  return [...new Set(wanted)].filter((r) => open.value.some((o) => o.option === r && o.outlay !== null)).slice(0, 3)
})
const tick = (repair: string) => (ticked.value = quoted.value.includes(repair) ? quoted.value.filter((r) => r !== repair) : [...quoted.value, repair].slice(-4))
const quote = computed(() => `/api/jobs/${job.value.facts.id}/quote.pdf?${new URLSearchParams([...quoted.value.map((r) => ['repairs', r]), ['zone', Intl.DateTimeFormat().resolvedOptions().timeZone]]).toString()}`)
const matches = computed(() => shown.value && ['replace_groups', 'donor_cells', 'recell'].includes(shown.value.repair))
watch(() => job.value.facts.id, () => { asked.value = null; chosen.value = null; ticked.value = null })
useShortcuts(() => open.value.slice(0, 9).map((r, i) => ({ key: String(i + 1), does: `look at: ${r.says.toLowerCase()}`, run: () => (chosen.value = r.option) })))
</script>

<template>
  <StageLayout>
    <section class="plan">
      <header>
        <h1>{{ planned?.accepted ? `Taken: ${planned.accepted.offered?.says ?? planned.accepted.repair.replaceAll('_', ' ')}` : plan?.best ? plan.repairs[0]!.says : 'Not compared yet' }}</h1>
        <p v-if="planned?.accepted?.offered" class="muted">Promised then: {{ money(planned.accepted.price ?? planned.accepted.offered.outlay) }}, about {{ planned.accepted.offered.usable_ah.toFixed(1) }} Ah a run, {{ planned.accepted.offered.odds }}.</p>
        <p v-if="plan">{{ closed ? 'As the plan would stand today: ' : '' }}{{ plan.because }}</p>
        <p v-if="plan?.wish" class="wish">{{ plan.wish.says }}</p>
        <p v-if="planned && !planned.suspected" class="muted">Nothing is judged yet: <RouterLink :to="stagePath(job.facts.id, 'judge')">Judge</RouterLink> says what is believed, and the plan goes by that.</p>
      </header>
      <p v-if="error" class="error" role="alert">{{ error instanceof Refusal ? error.message : 'The plan cannot be computed.' }}</p>
      <p v-if="!planned && !error" class="muted" aria-busy="true">Running each repair on the bench model</p>
      <template v-if="plan && planned">
        <PlanScales :repairs="open" :best="plan.best_option ?? null" :least="plan.least_option ?? null" :chosen="shown?.option ?? null" :taken="taken" :ticked="quoted" :money="money" @choose="chosen = $event" @tick="tick" />
        <NeedPrices :plan="planned" :closed="closed" @asked="asked = $event" />
        <details v-if="out.length" class="out">
          <summary>Ruled out, and why ({{ out.length }})</summary>
          <p v-for="r in out" :key="r.option"><strong>{{ r.says }}.</strong> {{ r.ruled_out }}</p>
        </details>
        <OrderList v-if="planned.accepted" :closed="closed" />
        <HarvestGroups v-if="!closed" />
      </template>
    </section>
    <template v-if="plan && planned" #judgement>
      <section v-if="plan.test_first" class="why first">
        <p class="label">Test before you replace</p>
        <p>{{ plan.test_first.because }}</p>
        <p v-if="plan.test_first.saves > 0" class="muted">Saves {{ money(plan.test_first.saves) }} on average, for {{ Math.round(plan.test_first.costs_min) }} min at the bench<template v-if="plan.test_first.waits_h > 0"> and {{ duration(plan.test_first.waits_h * 3600) }} of waiting</template>.</p>
        <RouterLink :to="stagePath(job.facts.id, 'judge')">To the tests in Judge</RouterLink>
      </section>
      <section v-if="shown" class="why">
        <p class="label">{{ shown.says }}</p>
        <p v-for="line in shown.because" :key="line">{{ line }}</p>
        <p>{{ shown.odds.charAt(0).toUpperCase() + shown.odds.slice(1) }}.</p>
        <p class="muted">{{ Math.round(shown.bench_min) }} min at the bench<template v-if="shown.usable_ah > 0">; gives {{ shown.current_a.toFixed(0) }} A for a full discharge, {{ shown.peak_a.toFixed(0) }} A for ten seconds</template>.</p>
        <p v-for="v in shown.variants" :key="v.name" class="muted">With {{ v.name }}<template v-if="v.cost !== null">, {{ money(v.cost) }} for cells</template>: {{ v.ruled_out ?? v.says }}</p>
      </section>
      <section v-if="shown?.needs.length" class="why">
        <p class="label">What it takes</p>
        <p v-for="line in shown.needs" :key="line">{{ line.charAt(0).toUpperCase() + line.slice(1) }}.</p>
      </section>
      <Caution v-if="shown" title="Mind">{{ shown.risk }}</Caution>
      <MatchedCells v-if="shown && matches" :key="shown.option" :repair="(shown.repair as 'recell')" :held="planned.held" :closed="closed" />
      <template v-if="!closed">
        <a v-if="quoted.length" :href="quote" target="_blank" class="quote">Quote to print, {{ quoted.length }} {{ quoted.length === 1 ? 'option' : 'options' }}</a>
        <PromiseLine :job="job.facts.id" />
        <TakeOption v-if="shown && taken !== shown.option" :repair="shown" />
        <NextButton v-if="planned.accepted" but="plan" />
      </template>
    </template>
  </StageLayout>
</template>

<style scoped>
.plan,
header,
.why {
  display: grid;
  gap: 7px;
}

.plan {
  gap: 16px;
  grid-template-columns: minmax(0, 1fr);
}

h1 {
  font-size: 28px;
}

.first {
  border-left: 4px solid var(--copper);
  padding-left: 10px;
}

.out summary {
  color: var(--petrol);
  cursor: pointer;
  font-weight: 650;
  min-height: 44px;
  padding-top: 10px;
}

.out p {
  border-top: 1px solid var(--rule-soft);
  padding: 7px 0;
}

.quote {
  align-items: center;
  border: 2px solid var(--petrol);
  display: inline-flex;
  font-weight: 650;
  justify-content: center;
  min-height: 46px;
  text-decoration: none;
}
</style>
