<script setup lang="ts">
import { computed } from 'vue'
import type { Sheet } from './usePatterns'

/** The string of a pack model, lying: groups between their taps from minus to plus, which taps come outside, which groups feed the board. */
const props = defineProps<{ sheet: Sheet }>()
const PER_LINE = 14
const each = computed(() => props.sheet.pack.series / props.sheet.pack.strings)
const outside = computed(() => new Set(props.sheet.outside_taps))
const feeds = computed(() => new Set(props.sheet.quirks.flatMap((q) => q.feeds_board ?? [])))
const wire = (tap: number) => props.sheet.plugs.flatMap((p) => p.pins).find((p) => p.tap === tap)?.wire ?? ''
const lines = computed(() => {
  const found: number[][] = []
  for (let s = 0; s < props.sheet.pack.strings; s++) for (let from = 0; from < each.value; from += PER_LINE) found.push(Array.from({ length: Math.min(PER_LINE, each.value - from) }, (_, i) => s * each.value + from + i + 1))
  return found
})
const WIDE = 400
const step = computed(() => Math.min(74, (WIDE - 40) / Math.max(...lines.value.map((l) => l.length))))
const TALL = 84
</script>

<template>
  <svg class="sketch" :viewBox="`0 0 ${WIDE} ${lines.length * TALL + 6}`" role="img" :aria-label="`${each} groups in series of ${sheet.pack.parallel}; taps ${[...outside].join(', ') || 'none'} come outside`">
    <g v-for="(line, row) in lines" :key="row" :transform="`translate(20 ${row * TALL + 12})`">
      <g v-for="(group, i) in line" :key="group">
        <rect :x="i * step + 5" y="16" :width="step - 10" height="26" :class="{ feeds: feeds.has(group) }" />
        <text :x="(i + 0.5) * step" y="34" class="group">{{ group }}</text>
      </g>
      <line x1="0" :x2="line.length * step" y1="29" y2="29" class="through" />
      <g v-for="i in line.length + 1" :key="`t${i}`">
        <circle :cx="(i - 1) * step" cy="29" r="5" :class="{ out: outside.has(line[0]! - 2 + i) }" />
        <text :x="(i - 1) * step" y="9" class="tap">{{ line[0]! - 2 + i }}</text>
        <text v-if="step > 40" :x="(i - 1) * step" y="60" class="wire">{{ wire(line[0]! - 2 + i) }}</text>
      </g>
    </g>
  </svg>
</template>

<style scoped>
.sketch {
  display: block;
  width: 100%;
}

rect {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.5;
}

rect.feeds {
  stroke-dasharray: 4 3;
}

.through {
  stroke: none;
}

circle {
  fill: var(--paper);
  stroke: var(--ink);
  stroke-width: 2;
}

circle.out {
  fill: var(--copper);
  stroke: var(--copper);
}

text {
  fill: var(--ink);
  font-family: var(--mono);
  font-size: 12px;
  text-anchor: middle;
}

.tap,
.wire {
  fill: var(--muted);
}

.wire {
  font-family: var(--text);
  font-size: 11px;
}
</style>
