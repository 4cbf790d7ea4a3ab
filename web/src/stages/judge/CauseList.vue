<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { type From, vFrom } from '@/composables/origin'
import { type Cause, chanceWords, percentOf } from './useJudgement'

/** The causes by chance, and of one of them what speaks for it, against it, and what nobody has looked at. */
const props = defineProps<{ causes: Cause[]; from: From }>()
const MOST = 4
const all = ref(false)
const shown = computed(() => (all.value ? props.causes : props.causes.slice(0, MOST)))
const chosen = ref(props.causes[0]?.cause)
// What leads now is what is looked at, unless another was picked and is still there.
const picked = ref(false)
watch(() => props.causes, (causes) => {
  if (picked.value && causes.some((c) => c.cause === chosen.value)) return
  picked.value = false
  chosen.value = causes[0]?.cause
})
const cause = computed(() => props.causes.find((c) => c.cause === chosen.value) ?? props.causes[0])
function pick(c: Cause) {
  chosen.value = c.cause
  picked.value = true
}
</script>

<template>
  <section class="argument" aria-label="Causes">
    <ol class="causes">
      <li v-for="c in shown" :key="c.cause">
        <button type="button" :aria-pressed="c === cause" @click="pick(c)">
          <span class="chance">{{ percentOf(c.probability) }}</span>
          <span class="bar" aria-hidden="true"><i :style="{ width: `${c.probability * 100}%` }"></i></span>
          <span class="says">{{ c.says }}</span>
          <span class="muted words">{{ chanceWords(c.probability) }}<template v-if="c.present > c.probability + 0.08">, there all the same {{ percentOf(c.present) }}</template></span>
        </button>
      </li>
    </ol>
    <button v-if="causes.length > MOST" type="button" class="linklike more" @click="all = !all">{{ all ? 'fewer' : `${causes.length - MOST} more, less likely` }}</button>
    <div v-if="cause" class="columns">
      <div class="for"><h3>Speaks for it</h3><p v-for="s in cause.for" :key="s" v-from="from">{{ s }}</p><p v-if="!cause.for.length" class="muted">Nothing yet but how often it happens.</p></div>
      <div class="against"><h3>Speaks against it</h3><p v-for="s in cause.against" :key="s" v-from="from">{{ s }}</p><p v-if="!cause.against.length" class="muted">Nothing so far.</p></div>
      <p v-if="cause.missing.length" class="missing"><span class="muted">Not checked yet: </span>{{ cause.missing.join('; ') }}.</p>
    </div>
  </section>
</template>

<style scoped>
.argument {
  display: grid;
  gap: 8px;
}

.causes {
  border-top: 1px solid var(--ink);
  list-style: none;
  margin: 0;
  padding: 0;
}

.causes button {
  align-items: center;
  background: none;
  border: 0;
  border-bottom: 1px solid var(--rule);
  border-left: 4px solid transparent;
  color: var(--ink);
  cursor: pointer;
  display: grid;
  font: inherit;
  gap: 0 12px;
  grid-template-columns: 48px 92px minmax(0, 1fr) auto;
  min-height: 44px;
  padding: 5px 0 5px 8px;
  text-align: left;
  width: 100%;
}

.causes button[aria-pressed='true'] {
  border-left-color: var(--petrol);
  font-weight: 650;
}

.chance {
  font-size: 18px;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
  text-align: right;
}

.bar {
  background: var(--rule-soft);
  height: 10px;
}

.bar i {
  background: var(--ink);
  display: block;
  height: 100%;
}

.words {
  font-size: 14px;
  font-weight: 400;
}

.more {
  justify-self: start;
  margin: 0;
  padding-left: 12px;
}

.columns {
  display: grid;
  gap: 6px 24px;
  grid-template-columns: 1fr 1fr;
}

h3 {
  font-size: 14px;
}

.for h3::before {
  content: '+ ';
}

.against h3::before {
  content: '− ';
}

.for,
.against {
  align-content: start;
  display: grid;
  gap: 4px;
}

.for p,
.against p {
  border-left: 3px solid var(--petrol);
  padding-left: 9px;
}

.against p {
  border-left: 3px dashed var(--copper);
}

.missing {
  grid-column: 1 / -1;
}
</style>
