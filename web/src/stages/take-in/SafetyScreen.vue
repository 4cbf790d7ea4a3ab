<script setup lang="ts">
import { useTemplateRef } from 'vue'
import type { Schemas } from '@/api/client'
import type { Answers } from './draft'

/** Six questions, each answered; y and n answer the one in focus and go on to the next. */
const answers = defineModel<Answers>({ required: true })
defineProps<{ terms: Schemas['Terms'] }>()

type Key = keyof Answers
const rows = useTemplateRef<HTMLElement[]>('rows')

/** Looked over as a whole: said once, and recorded as six answers. */
const none = () => (answers.value = Object.fromEntries(Object.keys(answers.value).map((key) => [key, false])) as Answers)

function answer(key: Key, yes: boolean, index: number) {
  answers.value = { ...answers.value, [key]: yes }
  rows.value?.[index + 1]?.focus()
}
</script>

<template>
  <fieldset class="screen">
    <legend><h2>Is it safe to touch</h2><span class="muted">answer all six: <kbd>y</kbd> or <kbd>n</kbd></span></legend>
    <div
      v-for="({ key, question }, index) in terms.safety"
      :key="key"
      ref="rows"
      class="question"
      :class="{ yes: answers[key] === true }"
      role="radiogroup"
      tabindex="0"
      :aria-label="question"
      @keydown.y.prevent="answer(key, true, index)"
      @keydown.n.prevent="answer(key, false, index)"
    >
      <span>{{ question }}</span>
      <span class="choice">
        <button type="button" role="radio" :aria-checked="answers[key] === false" tabindex="-1" @click="answer(key, false, index)">No</button>
        <button type="button" role="radio" :aria-checked="answers[key] === true" tabindex="-1" class="bad" @click="answer(key, true, index)">Yes</button>
      </span>
    </div>
    <button type="button" class="chip none" :aria-pressed="Object.values(answers).every((a) => a === false)" @click="none">I looked it over: none of the six</button>
  </fieldset>
</template>

<style scoped>
.screen {
  border: 0;
  margin: 0;
  padding: 0;
}

h2 {
  white-space: nowrap;
}

legend {
  align-items: baseline;
  display: flex;
  gap: 12px;
  padding: 0 0 6px;
}

.none {
  margin-top: 8px;
}

.question {
  align-items: center;
  border-top: 1px solid var(--rule-soft);
  display: flex;
  gap: 16px;
  justify-content: space-between;
  padding: 4px 8px;
}

.question.yes {
  background: repeating-linear-gradient(-45deg, var(--hazard-tint) 0 8px, transparent 8px 14px);
  font-weight: 700;
}

.choice {
  display: flex;
}

button {
  background: var(--field);
  border: 1px solid var(--muted);
  color: var(--ink);
  cursor: pointer;
  font: inherit;
  min-height: 44px;
  min-width: 68px;
}

button + button {
  border-left: 0;
}

button[aria-checked='true'] {
  background: var(--petrol);
  border-color: var(--petrol);
  color: var(--on-petrol);
  font-weight: 700;
}

button.bad[aria-checked='true'] {
  background: var(--hazard);
  border-color: var(--hazard);
  color: var(--field);
}
</style>
