<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { vFrom } from '@/composables/origin'

/** The checks of a proof: a mark and a word for each, and why. `open`: what none of the tests proved, where that is known. */
defineProps<{ proof: Schemas['Proof']; set: Schemas['Assessed'] | null; open?: string[] }>()
/** Whether a finer range of the meter would settle it: it lies inside its limit, and only the doubt reaches past that. */
const byMeter = (c: Schemas['Check']) => !c.hidden && c.unit === 'V' && c.value !== null && c.limit !== null && c.name !== 'rest'
const WORD = { pass: 'holds', fail: 'fails', not_yet: 'not yet' }
</script>

<template>
  <section class="proof" aria-live="polite">
    <p class="label">Proof at rest</p>
    <h2 :class="proof.result">{{ proof.headline }}</h2>
    <ul>
      <li v-for="check in proof.checks" :key="check.name" :class="check.result">
        <svg width="20" height="20" viewBox="0 0 20 20" aria-hidden="true">
          <path v-if="check.result === 'pass'" d="M3 11l5 5L17 5" />
          <path v-else-if="check.result === 'fail'" d="M4 4l12 12M4 16L16 4" />
          <circle v-else cx="10" cy="10" r="6.5" />
        </svg>
        <div>
          <strong>{{ check.label }}</strong> <span class="word">{{ WORD[check.result] }}</span>
          <p v-from="{ what: check.label, set, groups: 'all' }">{{ check.because }}</p>
          <RouterLink v-if="check.result === 'not_yet' && byMeter(check)" to="/bench">Settings of the meter</RouterLink>
        </div>
      </li>
    </ul>
    <template v-if="(open ?? proof.not_proved)?.length">
      <h3>{{ open ? 'Not proved' : 'Not proved by this' }}</h3>
      <ul class="open">
        <li v-for="left in open ?? proof.not_proved" :key="left">{{ left }}</li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
h3 {
  font-size: 16px;
  margin: 12px 0 0;
}

.open li {
  color: var(--muted);
  display: list-item;
  font-size: 14px;
  list-style: square inside;
  padding: 4px 0;
}

h2.fail {
  color: var(--hazard);
}

ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}

li {
  border-top: 1px solid var(--rule-soft);
  display: grid;
  gap: 8px;
  grid-template-columns: 20px 1fr;
  padding: 8px 0;
}

li p {
  color: var(--muted);
  font-size: 14px;
}

svg {
  margin-top: 2px;
}

path,
circle {
  fill: none;
  stroke: var(--petrol);
  stroke-width: 3;
}

.not_yet circle {
  stroke: var(--muted);
  stroke-dasharray: 4 3;
}

.fail path {
  stroke: var(--hazard);
}

.word {
  color: var(--petrol);
  font-size: 14px;
  font-weight: 650;
}

.fail .word {
  color: var(--hazard);
}

.not_yet .word {
  color: var(--muted);
}
</style>
