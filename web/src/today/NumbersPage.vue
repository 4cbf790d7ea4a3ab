<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useStorage } from '@vueuse/core'
import { computed } from 'vue'
import { client, settled } from '@/api/client'
import OpenFrame from '@/bench/OpenFrame.vue'
import { useMoney } from '@/composables/useMoney'
import HoursBars from '@/figures/HoursBars.vue'
import MonthBars from '@/figures/MonthBars.vue'
import NumberField from '@/forms/NumberField.vue'
import { quantity } from '@/forms/quantity'

/** Numbers of the shop over what it signed, and what one more of anything would have saved. */
const SPANS = [
  { months: 6, says: '6 months' },
  { months: 12, says: 'a year' },
  { months: null, says: 'all' },
]
const months = useStorage<number | null>('saldatura.numbers-months', null, undefined, { serializer: { read: (t) => (t === 'all' ? null : Number(t)), write: (n) => (n === null ? 'all' : String(n)) } })
const { data, error } = useQuery({
  queryKey: computed(() => ['numbers', months.value]),
  queryFn: () => settled(client.GET('/api/shop-numbers', { params: { query: months.value === null ? {} : { months: months.value } } })),
  placeholderData: (before) => before,
})
const { money } = useMoney()
// What is entered here is a question and no fact: it stays in this browser.
const costs = useStorage('saldatura.late-costs', '')
const what = useStorage('saldatura.faster-what', '')
const price = useStorage('saldatura.faster-price', '')
const sum = (text: string) => {
  const value = text.trim() ? quantity(text, 'money') : null
  return typeof value === 'number' && Number.isFinite(value) && value >= 0 ? value : null
}
const { data: faster } = useQuery({
  queryKey: computed(() => ['faster', months.value, sum(costs.value), what.value, sum(price.value)]),
  queryFn: () =>
    settled(
      client.GET('/api/faster', {
        params: { query: { months: months.value ?? 120, ...(sum(costs.value) === null ? {} : { late_h_costs: sum(costs.value) }), ...(what.value && sum(price.value) ? { what: what.value, price: sum(price.value) } : {}) } },
      }),
    ),
  placeholderData: (before) => before,
})
const csv = (table: string) => `/api/shop-numbers.csv?table=${table}${months.value === null ? '' : `&months=${months.value}`}`
const share = (n: number, of: number) => (of ? `${n} of ${of}` : 'none out long enough')
</script>

<template>
  <OpenFrame title="Numbers of the shop" under="From what was signed">
    <main class="numbers">
      <div class="head">
        <h1>{{ data ? `${data.jobs} ${data.jobs === 1 ? 'job' : 'jobs'}, ${data.hours} h of work` : 'Numbers of the shop' }}</h1>
        <span role="group" aria-label="Over how long"><button v-for="s in SPANS" :key="s.says" type="button" class="linklike" :aria-pressed="months === s.months" @click="months = s.months">{{ s.says }}</button></span>
      </div>
      <p v-if="error" class="error" role="alert">The numbers cannot be shown: Saldatura does not answer.</p>
      <template v-if="data">
        <p v-if="data.simulated" class="muted">All of these packs were simulated; the first real one that is signed replaces them.</p>
        <p v-if="!data.jobs" class="muted">No job was signed in that time. Hours and minutes are taken from what was recorded: nothing is entered twice.</p>
        <template v-else>
          <p class="saved"><strong>{{ data.cells }} cells and {{ data.kg }} kg</strong> kept from waste: cells that left with their pack or lie in the drawer.</p>
          <section>
            <h2>Where the hours go</h2>
            <HoursBars :steps="data.steps" />
            <a :href="csv('steps')" download>CSV</a>
          </section>
          <section>
            <h2>By kind of repair</h2>
            <div class="scroll">
              <table>
                <thead><tr><th>Repair</th><th class="n">Jobs</th><th class="n">Hours</th><th class="n">Minutes each</th><th class="n">Of the plan</th><th class="n">Right first time</th><th class="n">Margin each</th></tr></thead>
                <tbody>
                  <tr v-for="k in data.kinds" :key="k.kind">
                    <th scope="row">{{ k.name }}</th><td class="n">{{ k.jobs }}</td><td class="n">{{ k.hours }}</td><td class="n">{{ k.timed ? Math.round(k.mean_min) : '–' }}</td>
                    <td class="n">{{ k.taken_of_planned === null ? '–' : `${Math.round(100 * k.taken_of_planned)} %` }}</td><td class="n">{{ share(k.right, k.known) }}</td><td class="n">{{ k.margin === null ? '–' : money(k.margin) }}</td>
                  </tr>
                </tbody>
              </table>
            </div>
            <p class="muted">Right the first time: still out after 90 days, of those that have been. {{ data.margin_says }}</p>
            <a :href="csv('kinds')" download>CSV</a>
          </section>
          <section>
            <h2>Month by month</h2>
            <MonthBars :months="data.months" />
            <a :href="csv('months')" download>CSV</a>
          </section>
        </template>
      </template>
    </main>
    <aside class="side">
      <h2>What would make it faster</h2>
      <p v-if="faster">{{ faster.says }}</p>
      <p v-if="faster?.jobs" class="muted">{{ faster.jobs }} {{ faster.jobs === 1 ? 'job' : 'jobs' }} of {{ Math.round(faster.days) }} days played again over the hours as they are now: {{ Math.round(faster.late_h) }} h late in all. Waits for parts and customers are as they were.</p>
      <ol v-if="faster?.options.length">
        <li v-for="o in faster.options" :key="o.what">
          <strong>{{ o.what === 'hands' ? 'Another pair of hands' : `One more ${o.what}` }}</strong>
          <span class="mono">{{ o.late_h }} h less late</span>
          <span class="muted">{{ o.sooner_h }} h less waiting; busy {{ (100 * o.busy).toFixed(1) }} % of the hours</span>
          <span v-if="o.pays"><strong>{{ o.pays }}</strong></span>
        </li>
      </ol>
      <form v-if="faster?.options.length" class="ask" @submit.prevent>
        <label>One more<select v-model="what"><option value="">choose</option><option v-for="o in faster.options" :key="o.what" :value="o.what">{{ o.what === 'hands' ? 'pair of hands' : o.what }}</option></select></label>
        <NumberField v-model="price" label="Its price" unit="money" />
        <NumberField v-model="costs" label="An hour late costs" unit="money" />
        <p class="muted">As much as an hour of work, where nothing is entered.</p>
      </form>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.numbers {
  align-content: start;
  display: grid;
  gap: 16px;
  overflow: auto;
  padding: 24px 32px;
}

.head {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  justify-content: space-between;
}

[aria-pressed='true'] {
  color: var(--ink);
  text-decoration: none;
}

.saved {
  font-size: 19px;
}

section {
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 8px;
  padding-top: 10px;
}

section > a {
  justify-self: start;
  padding: 11px 0;
}

.scroll {
  overflow-x: auto;
}

table {
  border-collapse: collapse;
  width: 100%;
}

th,
td {
  border-bottom: 1px solid var(--rule);
  font-weight: 400;
  padding: 8px 10px 8px 0;
  text-align: left;
}

thead th {
  color: var(--muted);
  font-size: 14px;
  font-weight: 650;
}

.n {
  font-variant-numeric: tabular-nums;
  text-align: right;
}

.side {
  align-content: start;
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  display: grid;
  gap: 12px;
  overflow: auto;
  padding: 24px 18px;
}

ol {
  display: grid;
  gap: 12px;
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  border-left: 3px solid var(--petrol);
  display: grid;
  padding-left: 12px;
}

.ask,
.ask label {
  display: grid;
  gap: 8px;
}

select {
  background: var(--paper);
  border: 1px solid var(--ink);
  color: var(--ink);
  font: inherit;
  min-height: 44px;
  padding: 0 8px;
}
</style>
