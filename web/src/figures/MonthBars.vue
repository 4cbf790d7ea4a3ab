<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { Schemas } from '@/api/client'

/** Packs a month: handed back as a filled column, scrapped hatched on top; hours of work as a line of dots over them. */
const props = defineProps<{ months: Schemas['MonthNumbers'][] }>()
const box = useTemplateRef<HTMLElement>('box')
const { width } = useElementSize(box)
const H = 118
const BASE = 92
const most = computed(() => Math.max(1, ...props.months.map((m) => m.handed_back + m.scrapped)))
const hours = computed(() => Math.max(0.1, ...props.months.map((m) => m.hours)))
const step = computed(() => Math.min((width.value - 66) / Math.max(props.months.length, 1), 60))
const x = (k: number) => 30 + k * step.value
const y = (n: number) => (n / most.value) * (BASE - 12)
const named = (month: string, k: number) => (step.value > 34 || k % Math.ceil(34 / step.value) === 0 ? month.slice(2).replace('-', '/') : '')
const summary = computed(() => props.months.map((m) => `${m.month}: ${m.handed_back} handed back, ${m.scrapped} scrapped, ${m.hours} h`).join('; '))
</script>

<template>
  <div ref="box">
    <svg v-if="width > 0" :width="width" :height="H" role="img" :aria-label="summary">
      <defs><pattern id="month-scrap" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect width="2" height="5" class="scrap" /></pattern></defs>
      <line :x1="26" :x2="width - 36" :y1="BASE" :y2="BASE" class="base" />
      <text :x="0" :y="BASE - y(most) + 5" class="muted">{{ most }}</text><text :x="0" :y="BASE + 4" class="muted">0</text>
      <text :x="width" :y="BASE - (BASE - 12) + 5" text-anchor="end" class="h">{{ hours }} h</text>
      <g v-for="(m, k) in months" :key="m.month">
        <title>{{ m.month }}: {{ m.handed_back }} handed back, {{ m.scrapped }} scrapped, {{ m.hours }} h of work, {{ m.cells }} cells kept</title>
        <rect :x="x(k) + 2" :y="BASE - y(m.handed_back)" :width="Math.max(step - 5, 2)" :height="y(m.handed_back)" class="back" />
        <rect v-if="m.scrapped" :x="x(k) + 2" :y="BASE - y(m.handed_back + m.scrapped)" :width="Math.max(step - 5, 2)" :height="y(m.scrapped)" fill="url(#month-scrap)" class="edge" />
        <circle :cx="x(k) + step / 2" :cy="BASE - (m.hours / hours) * (BASE - 12)" r="3.5" class="dot" />
        <text :x="x(k) + step / 2" :y="H - 8" text-anchor="middle" class="muted">{{ named(m.month, k) }}</text>
      </g>
    </svg>
    <p class="muted key">Columns: packs handed back. Dots: hours of work.</p>
  </div>
</template>

<style scoped>
svg {
  display: block;
  font-size: 13px;
}

.base {
  stroke: var(--ink);
}

.back {
  fill: var(--petrol-tint);
  stroke: var(--petrol);
}

.scrap {
  fill: var(--hazard);
}

.edge {
  stroke: var(--hazard);
}

.dot {
  fill: var(--copper);
}

text.muted {
  fill: var(--muted);
}

.h {
  fill: var(--copper);
}

.key {
  font-size: 14px;
}
</style>
