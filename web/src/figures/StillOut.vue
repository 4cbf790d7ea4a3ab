<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/** Of packs that went out, the share still out after so many days: a stair that steps down with each return, and its 95 % band. */
const props = defineProps<{ points: Schemas['KeptPoint'][]; until: number; name: string }>()

const W = 560
const H = 120
const LEFT = 44
const BASE = 98
const x = (days: number) => LEFT + ((W - LEFT - 8) * days) / Math.max(props.until, 1)
const y = (share: number) => 8 + (BASE - 8) * (1 - share)

function stair(of: 'kept' | 'low' | 'high') {
  const parts: string[] = []
  props.points.forEach((p, i) => {
    if (i === 0) parts.push(`M${x(p.days)} ${y(p[of])}`)
    else parts.push(`H${x(p.days)} V${y(p[of])}`)
  })
  return parts.join(' ')
}
const band = computed(() => {
  const back: string[] = []
  for (let i = props.points.length - 1; i > 0; i -= 1) back.push(`V${y(props.points[i]!.low)} H${x(props.points[i - 1]!.days + (props.points[i]!.days - props.points[i - 1]!.days))}`, `V${y(props.points[i - 1]!.low)} H${x(props.points[i - 1]!.days)}`)
  return `${stair('high')} ${back.join(' ')} Z`
})
const ticks = computed(() => {
  const step = props.until > 1500 ? 365 : props.until > 500 ? 180 : props.until > 200 ? 90 : 30
  return Array.from({ length: Math.floor(props.until / step) + 1 }, (_, i) => i * step)
})
const last = computed(() => props.points.at(-1))
const words = computed(() => (last.value ? `${props.name}: after ${Math.round(last.value.days)} days ${Math.round(last.value.kept * 100)} % still out, between ${Math.round(last.value.low * 100)} and ${Math.round(last.value.high * 100)} %` : props.name))
</script>

<template>
  <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="words">
    <g v-for="share in [1, 0.5, 0]" :key="share">
      <line :x1="LEFT" :x2="W - 8" :y1="y(share)" :y2="y(share)" class="rule" />
      <text :x="LEFT - 6" :y="y(share) + 4" text-anchor="end">{{ share * 100 }} %</text>
    </g>
    <path :d="band" class="band" />
    <path :d="stair('kept')" class="stair" />
    <circle v-for="p in points.slice(1).filter((p, i) => p.kept < points[i]!.kept)" :key="p.days" :cx="x(p.days)" :cy="y(p.kept)" r="4" class="came" />
    <text v-for="t in ticks" :key="t" :x="x(t)" :y="H - 4" text-anchor="middle">{{ t }} d</text>
  </svg>
</template>

<style scoped>
svg {
  max-width: 720px;
  width: 100%;
}

text {
  fill: var(--muted);
  font: 12px var(--mono);
}

.rule {
  stroke: var(--rule-soft);
}

.band {
  fill: var(--petrol-tint);
}

.stair {
  fill: none;
  stroke: var(--petrol);
  stroke-width: 2.5;
}

.came {
  fill: var(--sheet);
  stroke: var(--copper);
  stroke-width: 2.5;
}
</style>
