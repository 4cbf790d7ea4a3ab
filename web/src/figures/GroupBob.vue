<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/** One group on the plumb line: its state by shape and word first, colour second. */
const props = defineProps<{
  state: Schemas['HangingGroup']['state']
  x: number
  plumbX: number
  y: number
  whisker: number
}>()

const WORDS: Partial<Record<Schemas['HangingGroup']['state'], string>> = {
  low: 'low',
  high: 'high',
  overcharged: 'above full',
  run_flat: 'run flat',
  under_floor: 'under the floor',
  reversed: 'reversed',
  dead: 'dead',
  in_doubt: 'in doubt',
}
const word = computed(() => WORDS[props.state])
// The word stands on the rod's free side, and above it where the bob hangs close to the plumb.
const near = computed(() => Math.abs(props.x - props.plumbX) < 56)
const wordX = computed(() => (near.value ? props.plumbX + 12 : props.x + (props.x < props.plumbX ? 12 : -12)))
const anchor = computed(() => (near.value || props.x < props.plumbX ? 'start' : 'end'))
const whiskers = computed(() => Math.min(props.whisker, 60))
</script>

<template>
  <g class="bob" aria-hidden="true" :class="state" :transform="`translate(0 ${y})`">
    <path v-if="state === 'unread'" :d="`M${plumbX} -5v3.500a5.500 5.500 0 0 1 -9 4`" class="hook" />
    <template v-else>
      <line v-if="state !== 'level'" :x1="plumbX" :x2="x" y1="0" y2="0" class="rod" />
      <line :x1="x - whiskers" :x2="x + whiskers" y1="0" y2="0" class="whisker" />
      <g class="shape" :style="{ transform: `translateX(${x}px)` }">
        <template v-if="state === 'level'">
          <rect x="-7" y="-7" width="14" height="14" class="frame" />
          <line x1="-7" x2="7" y1="0" y2="0" class="thin" />
        </template>
        <path v-else-if="state === 'low'" d="M-8 -6h16l-8 14z" class="solid" />
        <path v-else-if="state === 'high'" d="M-8 6h16l-8 -14z" class="solid" />
        <path v-else-if="state === 'overcharged'" d="M-8 4h16l-8 -12zM-9 9h18" class="grave" />
        <path v-else-if="state === 'run_flat'" d="M-8 -6h16l-8 14z" class="flat" />
        <path v-else-if="state === 'under_floor'" d="M-8 -6h16l-8 14zM-9 11h18" class="grave" />
        <path v-else-if="state === 'reversed'" d="M7 -8v16l-14 -8z" class="grave" />
        <path v-else-if="state === 'dead'" d="M-7 -7l14 14M-7 7l14 -14" class="cross" />
        <circle v-else r="8" class="doubt" />
        <text v-if="state === 'in_doubt'" y="5" text-anchor="middle" class="mark">?</text>
      </g>
      <text v-if="word" :x="wordX" y="-9" :text-anchor="anchor" class="word">{{ word }}</text>
    </template>
  </g>
</template>

<style scoped>
.hook {
  fill: none;
  stroke: var(--muted);
  stroke-width: 1.6;
}

.shape {
  transition: transform 0.35s cubic-bezier(0.3, 1.4, 0.5, 1);
}

.frame {
  fill: var(--sheet);
  stroke: var(--petrol);
  stroke-width: 3;
}

.thin {
  stroke: var(--petrol);
  stroke-width: 1.4;
}

.whisker {
  stroke: var(--ink);
  stroke-width: 1;
}

.rod {
  stroke: var(--copper);
  stroke-width: 2;
}

.solid {
  fill: var(--copper);
}

.grave {
  fill: var(--hazard);
  stroke: var(--hazard);
  stroke-width: 2.5;
}

.flat {
  fill: var(--sheet);
  stroke: var(--copper);
  stroke-width: 3;
}

.cross {
  stroke: var(--hazard);
  stroke-width: 4;
}

.doubt {
  fill: var(--sheet);
  stroke: var(--hazard);
  stroke-dasharray: 4 3;
  stroke-width: 2.5;
}

.mark {
  fill: var(--hazard);
  font-weight: 700;
}

.word {
  fill: var(--copper);
  font-family: var(--text);
  font-size: 14px;
  font-weight: 700;
}

.overcharged .word,
.under_floor .word,
.reversed .word,
.dead .word,
.in_doubt .word {
  fill: var(--hazard);
}

.overcharged .rod,
.under_floor .rod,
.reversed .rod,
.dead .rod,
.in_doubt .rod {
  stroke: var(--hazard);
  stroke-dasharray: 5 3;
}
</style>
