<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/**
 * Repairs as rows on common scales: outlay as a bar with what failing may add beyond it, years as a range, the charge of a run now with
 * what is left of it in two years, and the wait. Read across for one repair, down for one question.
 */
export type Repair = Schemas['Repair']
const props = defineProps<{ repairs: Repair[]; best: string | null; least: string | null; chosen: string | null; taken: string | null; ticked: string[]; money: (value: number | null | undefined) => string }>()
const emit = defineEmits<{ choose: [string]; tick: [string] }>()
const top = (values: number[]) => Math.max(...values, 1e-9)
const dearest = computed(() => top(props.repairs.map((r) => Math.min(r.cost ?? r.outlay ?? 0, 4 * top(props.repairs.map((q) => q.outlay ?? 0))))))
const years = computed(() => top(props.repairs.map((r) => r.years_high)))
const ah = computed(() => top(props.repairs.map((r) => r.usable_ah)))
const share = (value: number, of: number) => `${Math.min((value / of) * 100, 100)}%`
const span = (low: number, high: number) => (high < 0.05 ? 'none' : high < 1 ? `${Math.max(Math.round(low * 12), 0)} to ${Math.max(Math.round(high * 12), 1)} months` : `${low < 0.05 ? '0' : low.toFixed(low < 3 ? 1 : 0)} to ${high.toFixed(high < 3 ? 1 : 0)}`)
const wait = (hours: number) => (hours < 1 ? 'none' : hours < 40 ? `${Math.round(hours)} h` : `${Math.round(hours / 24)} days`)
</script>

<template>
  <div class="scales" role="table" aria-label="Repairs side by side">
    <div class="row head" role="row">
      <span role="columnheader">Cost<span class="muted">; hatched: if it fails</span></span>
      <span role="columnheader"><TermWord of="years_of_service">Years of service</TermWord></span>
      <span role="columnheader">Ah a run now<span class="muted">, in 2 years</span></span>
      <span role="columnheader">Wait</span>
      <span role="columnheader">Quote</span>
    </div>
    <div v-for="(r, i) in repairs" :key="r.option" class="row" role="row" :class="{ chosen: r.option === chosen, best: r.option === best }">
      <span role="cell" class="of"><button type="button" class="pick" :aria-pressed="r.option === chosen" @click="emit('choose', r.option)">
        <kbd v-if="i < 9" aria-hidden="true">{{ i + 1 }}</kbd>
        <span class="says"><strong>{{ r.says }}</strong></span>
        <span class="flags"><em v-if="r.option === taken" class="took">taken</em><em v-if="r.option === best">cheapest per year{{ r.cost_per_year !== null ? `: ${money(r.cost_per_year)}` : '' }}</em><em v-if="r.option === least">costs least now</em><span v-if="r.option !== best && r.cost_per_year !== null" class="muted">{{ money(r.cost_per_year) }} a year</span><span v-if="r.repair !== 'retire'" class="muted">{{ Math.round(r.chance * 100) }} % chance this fixes it</span></span>
      </button></span>
      <span role="cell" class="scale"><span class="bar"><i class="solid" :style="{ width: share(r.outlay ?? 0, dearest) }"></i><i class="hatched" :style="{ width: share(Math.max((r.cost ?? 0) - (r.outlay ?? 0), 0), dearest) }"></i></span><span class="mono value">{{ money(r.outlay) }}</span></span>
      <span role="cell" class="scale"><span class="bar"><i v-if="r.years_high > 0.05" class="range" :style="{ left: share(r.years_low, years), width: share(Math.max(r.years_high - r.years_low, years * 0.008), years) }"></i></span><span class="mono value">{{ span(r.years_low, r.years_high) }}</span></span>
      <span role="cell" class="scale"><span class="bar"><i class="solid thin" :style="{ width: share(r.usable_ah, ah) }"></i><i v-if="r.usable_ah > 0" class="nail" :style="{ left: share(r.usable_in_two_years_ah, ah) }"></i></span><span class="mono value">{{ r.usable_ah > 0 ? `${r.usable_ah.toFixed(1)}, ${r.usable_in_two_years_ah.toFixed(1)}` : 'none' }}</span></span>
      <span role="cell" class="wait">{{ wait(r.wait_h) }}</span>
      <span role="cell"><input type="checkbox" :checked="ticked.includes(r.option)" :disabled="r.outlay === null" :aria-label="`${r.says} on the quote`" @change="emit('tick', r.option)" /></span>
    </div>
  </div>
</template>

<style scoped>
.row {
  align-items: center;
  border-bottom: 1px solid var(--rule-soft);
  display: grid;
  gap: 0 16px;
  grid-template-columns: minmax(0, 1.2fr) minmax(0, 1.1fr) minmax(0, 1fr) 56px 42px;
  padding: 2px 0 6px 10px;
}

.head {
  border-bottom-color: var(--ink);
  padding-bottom: 2px;
  color: var(--ink);
  font-size: 14px;
  font-weight: 650;
  min-height: 30px;
}

.head .muted {
  font-weight: 400;
}

.chosen {
  background: var(--petrol-tint);
}

.best {
  box-shadow: inset 4px 0 var(--copper);
}

.pick {
  align-items: center;
  background: none;
  border: 0;
  color: inherit;
  cursor: pointer;
  display: flex;
  font: inherit;
  gap: 4px 10px;
  min-height: 44px;
  padding: 0;
  text-align: left;
  width: 100%;
}

.of {
  grid-column: 1 / -1;
}

.says {
  font-size: 17px;
}

.flags {
  display: flex;
  flex-wrap: wrap;
  font-size: 14px;
  gap: 0 10px;
  margin-left: auto;
}

.flags em {
  color: var(--copper);
  font-style: normal;
  font-weight: 650;
}

.flags .took {
  color: var(--petrol);
}

.scale {
  display: grid;
  gap: 2px;
}

.value {
  font-size: 14px;
  white-space: nowrap;
}

.bar {
  border-bottom: 1px solid var(--rule);
  border-left: 1px solid var(--rule);
  display: flex;
  height: 15px;
  position: relative;
}

.bar i {
  display: block;
  height: 11px;
}

.solid {
  background: var(--petrol);
}

.thin {
  height: 7px !important;
}

.hatched {
  background: repeating-linear-gradient(-45deg, var(--copper) 0 2px, transparent 2px 6px);
  border: 1px solid var(--copper);
  border-left: 0;
}

.range {
  background: var(--ink);
  position: absolute;
}

.nail {
  background: var(--copper);
  position: absolute;
  width: 3px;
}

input[type='checkbox'] {
  height: 22px;
  width: 22px;
}

.wait {
  white-space: nowrap;
}

@media (max-width: 700px) {
  .row {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }

  .pick {
    flex-wrap: wrap;
  }

  .flags {
    margin-left: 0;
  }

  .head {
    display: none;
  }
}
</style>
