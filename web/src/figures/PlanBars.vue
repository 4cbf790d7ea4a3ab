<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { clock } from '@/composables/format'

/**
 * A levelling in time: a row for each channel, a bar for each group on it, with its range as a thin tail; hours that nobody is there are
 * hatched; the post at the right is what no plan could end before.
 */
type Step = Schemas['PlanStep']
const props = defineProps<{ steps: Step[]; channels: string[]; finish: number; bound: number; attended: Schemas['Attended'][]; from: number; chosen: Step | null }>()
const emit = defineEmits<{ choose: [Step] }>()
const ROW = 46
const [LEFT, WIDE] = [112, 560]
const span = computed(() => Math.max(props.finish, ...props.steps.map((s) => s.start_s + s.duration_high_s), 600) * 1.04)
const x = (s: number) => LEFT + (WIDE - LEFT) * (s / span.value)
const rows = computed(() => props.channels.filter((name) => props.steps.some((s) => s.channel === name)))
const tall = computed(() => rows.value.length * ROW + 30)
const bars = computed(() => {
  const seen = new Set<string>()
  return props.steps.flatMap((s) => {
    // All groups on a harness are one bar.
    const key = s.kind === 'harness' ? `${s.channel} ${s.start_s}` : `${s.channel} ${s.group} ${s.start_s}`
    if (seen.has(key)) return []
    seen.add(key)
    return [{ key, s, y: rows.value.indexOf(s.channel) * ROW + 6, words: s.kind === 'harness' ? 'all groups' : `${s.group}` }]
  })
})
const ticks = computed(() => {
  const step = [600, 1800, 3600, 7200, 14400, 28800, 86400].find((t) => span.value / t <= 7) ?? 172800
  return Array.from({ length: Math.floor(span.value / step) + 1 }, (_, k) => k * step)
})
const gaps = computed(() => {
  if (!props.attended.length) return []
  const sorted = [...props.attended].sort((a, b) => a.from_s - b.from_s)
  const out: [number, number][] = []
  let at = 0
  for (const w of sorted) {
    if (w.from_s > at) out.push([at, w.from_s])
    at = Math.max(at, w.to_s)
  }
  if (at < span.value) out.push([at, span.value])
  return out.filter(([a]) => a < span.value)
})
const time = (s: number) => clock(new Date(props.from + s * 1000).toISOString())
const same = (a: Step | null, b: Step) => a !== null && a.group === b.group && a.channel === b.channel && a.start_s === b.start_s
</script>

<template>
  <svg class="bars" :viewBox="`0 0 ${WIDE + 20} ${tall}`" role="group" aria-label="The plan in time">
    <defs><pattern id="nobody" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><line x1="0" y1="0" x2="0" y2="6" class="hatch" /></pattern></defs>
    <rect v-for="[a, b] in gaps" :key="a" :x="x(a)" y="0" :width="Math.max(x(Math.min(b, span)) - x(a), 0)" :height="tall - 24" class="nobody"><title>nobody is there</title></rect>
    <g v-for="(name, k) in rows" :key="name"><line :x1="LEFT" :x2="WIDE" :y1="(k + 1) * ROW - 2" :y2="(k + 1) * ROW - 2" class="rule" /><text x="0" :y="k * ROW + 30" class="channel">{{ name.length > 14 ? `${name.slice(0, 13)}…` : name }}</text></g>
    <g v-for="b in bars" :key="b.key" class="bar" :class="[b.s.kind, { chosen: same(chosen, b.s) }]" role="button" tabindex="0" :aria-label="`${b.words === 'all groups' ? b.words : `group ${b.words}`} on ${b.s.channel} from ${time(b.s.start_s)}`" @click="emit('choose', b.s)" @keydown.enter="emit('choose', b.s)">
      <rect :x="x(b.s.start_s)" :y="b.y" :width="Math.max(x(b.s.start_s + b.s.duration_s) - x(b.s.start_s), 3)" height="32" />
      <path :d="`M${x(b.s.start_s + b.s.duration_s)} ${b.y + 16}H${x(b.s.start_s + b.s.duration_high_s)}`" class="tail" />
      <text :x="x(b.s.start_s) + 6" :y="b.y + 22">{{ b.words }}</text>
    </g>
    <path :d="`M${x(bound)} 0V${tall - 24}`" class="bound"><title>no plan over these channels ends before {{ time(bound) }}</title></path>
    <text v-for="t in ticks" :key="t" :x="x(t)" :y="tall - 6" class="tick">{{ t === 0 ? 'now' : time(t) }}</text>
  </svg>
</template>

<style scoped>
.bars {
  background: var(--sheet);
  display: block;
  width: 100%;
}

.rule {
  stroke: var(--rule-soft);
}

.channel {
  fill: var(--ink);
  font-size: 15px;
  font-weight: 650;
}

.bar {
  cursor: pointer;
}

.bar rect {
  fill: var(--petrol);
}

.bar text {
  fill: var(--sheet);
  font-size: 16px;
  font-weight: 700;
}

.precharge rect,
.bleed rect {
  fill: var(--sheet);
  stroke: var(--petrol);
  stroke-dasharray: 5 3;
  stroke-width: 2;
}

.precharge text,
.bleed text {
  fill: var(--ink);
}

.chosen rect {
  stroke: var(--copper);
  stroke-width: 3;
}

.bar:focus-visible {
  outline: none;
}

.bar:focus-visible rect {
  stroke: var(--copper);
  stroke-width: 4;
}

.tail {
  stroke: var(--petrol);
  stroke-width: 3;
}

.bound {
  stroke: var(--ink);
  stroke-dasharray: 2 4;
}

.hatch {
  stroke: var(--rule);
  stroke-width: 2;
}

.nobody {
  fill: url('#nobody');
}

.tick {
  fill: var(--muted);
  font-size: 13px;
  text-anchor: middle;
}
</style>
