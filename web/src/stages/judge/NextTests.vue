<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'
import { errandOf } from './errands'
import type { NextTest } from './useJudgement'

/** The tests that tell most for their minutes; a digit or a press leads to where each is done. */
const props = defineProps<{ tests: NextTest[]; enough: boolean; closed: boolean }>()
const job = useJob()
const router = useRouter()
const most = computed(() => Math.max(...props.tests.map((t) => t.information_bits), 0.05))
const go = (test: NextTest) => errandOf(test, job.value.facts.id, router)
useShortcuts(() => (props.closed ? [] : props.tests.map((t, i) => ({ key: String(i + 1), does: t.says.replace(/\.$/, '').toLowerCase(), run: () => go(t) }))))
const takes = (t: NextTest) => [`${t.minutes < 1 ? 'half a minute' : `${Math.round(t.minutes)} min`}`, ...(t.waits_h ? [`then ${t.waits_h} h`] : []), ...(t.opens_pack ? ['opens the case'] : [])].join(', ')
</script>

<template>
  <section class="tests" aria-label="Next tests">
    <h2>{{ enough ? 'Next reading, to confirm it' : 'Next reading' }}</h2>
    <p v-if="!tests.length" class="muted">No test allowed in this state would tell more.</p>
    <ol>
      <li v-for="(t, i) in tests" :key="t.test">
        <button type="button" class="card" :class="{ first: i === 0 && !enough }" :disabled="closed" @click="go(t)">
          <kbd aria-hidden="true">{{ i + 1 }}</kbd>
          <span class="says">{{ t.says }}</span>
          <span class="takes muted">{{ takes(t) }}</span>
          <span class="because">{{ t.because }}</span>
          <span class="bits" :title="`${t.information_bits.toFixed(2)} bits about what to do`"><i :style="{ width: `${(t.information_bits / most) * 100}%` }"></i></span>
        </button>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.tests {
  display: grid;
  gap: 8px;
}

ol {
  display: grid;
  gap: 8px;
  grid-template-columns: repeat(auto-fill, minmax(min(250px, 100%), 1fr));
  list-style: none;
  margin: 0;
  padding: 0;
}

.card {
  align-content: start;
  background: var(--sheet);
  border: 1px solid var(--muted);
  color: var(--ink);
  cursor: pointer;
  display: grid;
  font: inherit;
  gap: 2px 9px;
  grid-template: auto auto 1fr auto / auto minmax(0, 1fr);
  height: 100%;
  padding: 9px 11px 0;
  text-align: left;
  width: 100%;
}

.card.first {
  border: 2px solid var(--copper);
}

.card:disabled {
  cursor: default;
  opacity: 0.6;
}

.card kbd {
  align-self: start;
}

.says {
  font-weight: 650;
}

.takes,
.because {
  font-size: 14px;
  grid-column: 2;
}

.bits {
  align-self: end;
  background: var(--rule-soft);
  grid-column: 1 / -1;
  height: 5px;
  margin: 7px -11px 0;
}

.bits i {
  background: var(--petrol);
  display: block;
  height: 100%;
}
</style>
