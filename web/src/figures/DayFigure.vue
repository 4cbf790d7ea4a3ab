<script setup lang="ts">
import { useElementSize, useStorage } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { clock, jobNumber } from '@/composables/format'
import { useNow } from '@/composables/useNow'
import { hidden, rowsOf } from './dayRows'

/**
 * The day on one axis: hands above, channels below. What has begun is filled, what is planned is drawn round; the hatched part is how long
 * it may last. Where nobody is here the ground is hatched. It is computed, and nothing is dragged.
 */
const props = defineProps<{ day: Schemas['DayNow'] }>()
const router = useRouter()
const now = useNow()
const box = useTemplateRef<HTMLElement>('box')
const { width } = useElementSize(box)
const HOUR = 3_600_000
const hours = useStorage('saldatura.day-hours', 10)
const ms = (iso: string) => new Date(iso).getTime()
const names = computed(() => (width.value < 520 ? 74 : 124))
const from = computed(() => (now.value || ms(props.day.at)) - 0.04 * hours.value * HOUR)
const to = computed(() => from.value + hours.value * HOUR)
const x = (t: number) => names.value + ((Math.min(Math.max(t, from.value), to.value) - from.value) / (to.value - from.value)) * Math.max(width.value - names.value - 2, 10)
const rows = computed(() => rowsOf(props.day.plan.hands, props.day.plan.runs, from.value, to.value))
const more = computed(() => hidden(props.day.plan.runs, rows.value, from.value, to.value))
const TOP = 24
const tall = (hands: boolean) => (hands ? 34 : 24)
const tops = computed(() => rows.value.map((_, k) => TOP + rows.value.slice(0, k).reduce((y, r) => y + tall(r.hands), 0)))
const height = computed(() => TOP + rows.value.reduce((y, r) => y + tall(r.hands), 0) + 4)
const closed = computed(() => {
  const found: [number, number][] = []
  let at = from.value
  for (const s of props.day.attended) {
    if (ms(s.from_at) > at) found.push([at, Math.min(ms(s.from_at), to.value)])
    at = Math.max(at, ms(s.to_at))
    if (at >= to.value) break
  }
  if (at < to.value) found.push([at, to.value])
  return found.filter(([a, b]) => b > a && a < to.value)
})
const ticks = computed(() => {
  const room = (width.value - names.value) / hours.value
  const step = [1, 2, 3, 6, 12, 24].find((h) => h * room >= 58) ?? 24
  const found: { at: number; says: string; day: boolean }[] = []
  const first = new Date(from.value)
  first.setHours(0, 0, 0, 0)
  for (let t = first.getTime(); t < to.value; t += HOUR) {
    const at = new Date(t)
    // A label at the very edge would be cut off.
    if (t < from.value + 0.02 * (to.value - from.value) || x(t) > width.value - 24 || at.getHours() % step) continue
    found.push({ at: t, day: at.getHours() === 0, says: at.getHours() === 0 ? at.toLocaleDateString(undefined, { weekday: 'short' }) : at.toLocaleTimeString(undefined, { hour: 'numeric' }) })
  }
  return found
})
const text = (b: Schemas['Bar'], hands: boolean) => {
  const room = x(ms(b.to_at)) - x(ms(b.from_at))
  if (room < 26) return ''
  const long = `${b.pack_name}${hands ? `: ${b.says.charAt(0).toLowerCase()}${b.says.slice(1)}` : ''}`
  const fits = Math.floor((room - 8) / 7)
  return long.length <= fits ? long : fits >= 12 ? `${long.slice(0, fits - 1)}…` : String(b.job_id)
}
const title = (b: Schemas['Bar']) => `${jobNumber(b.job_id)} ${b.pack_name}: ${b.says}, ${clock(b.from_at)} to ${clock(b.to_at)}${ms(b.high) - ms(b.to_at) > 60_000 ? `, or ${clock(b.high)} at the latest` : ''}${b.begun ? '' : ' (planned)'}`
const summary = computed(() => `The day's plan: ${props.day.plan.hands.length} acts of hands, ${props.day.plan.runs.length} that run by themselves. ${props.day.plan.says}`)
const SPANS = [
  { h: 10, says: '10 hours' },
  { h: 72, says: '3 days' },
]
</script>

<template>
  <section class="day" aria-label="The day">
    <div class="top">
      <h2>The day</h2>
      <span class="muted">{{ day.plan.how === 'rule' ? '' : `${day.plan.tasks} ${day.plan.tasks === 1 ? 'task' : 'tasks'}. ` }}{{ day.plan.says }}</span>
      <span class="spans" role="group" aria-label="How far ahead">
        <button v-for="s in SPANS" :key="s.h" type="button" class="linklike" :aria-pressed="hours === s.h" @click="hours = s.h">{{ s.says }}</button>
      </span>
    </div>
    <div ref="box">
      <svg v-if="width > 0" :width="width" :height="height" role="img" :aria-label="summary">
        <defs>
          <pattern id="day-closed" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect width="2" height="7" class="closed" /></pattern>
          <pattern id="day-range" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)"><rect width="2" height="5" class="range" /></pattern>
        </defs>
        <rect v-for="[a, b] in closed" :key="a" :x="x(a)" :y="TOP" :width="Math.max(x(b) - x(a), 0)" :height="height - TOP" fill="url(#day-closed)" />
        <g v-for="t in ticks" :key="t.at">
          <line :x1="x(t.at)" :x2="x(t.at)" :y1="TOP - 5" :y2="height" class="tick" :class="{ midnight: t.day }" />
          <text :x="x(t.at)" :y="TOP - 9" class="at" :class="{ midnight: t.day }">{{ t.says }}</text>
        </g>
        <g v-for="(row, k) in rows" :key="k">
          <line :x1="0" :x2="width" :y1="tops[k]! + tall(row.hands)" :y2="tops[k]! + tall(row.hands)" class="rule" />
          <text v-if="row.name" :x="0" :y="tops[k]! + tall(row.hands) / 2 + 5" class="name" :class="{ hands: row.hands }">{{ row.name.length * 7.4 > names ? `${row.name.slice(0, Math.floor(names / 7.4) - 1)}…` : row.name }}<title>{{ row.name }}</title></text>
          <g v-for="b in row.bars" :key="`${b.job_id}${b.from_at}${b.says}`" class="bar" :class="{ hands: row.hands, begun: b.begun }" @click="router.push(`/jobs/${b.job_id}`)">
            <title>{{ title(b) }}</title>
            <rect v-if="!row.hands && ms(b.high) > ms(b.to_at)" :x="x(ms(b.to_at))" :y="tops[k]! + 6" :width="Math.max(x(ms(b.high)) - x(ms(b.to_at)), 0)" :height="tall(row.hands) - 12" fill="url(#day-range)" />
            <rect class="body" :x="x(ms(b.from_at))" :y="tops[k]! + 4" :width="Math.max(x(ms(b.to_at)) - x(ms(b.from_at)), 2)" :height="tall(row.hands) - 8" />
            <text :x="x(ms(b.from_at)) + 5" :y="tops[k]! + tall(row.hands) / 2 + 5">{{ text(b, row.hands) }}</text>
          </g>
        </g>
        <line :x1="x(now || ms(day.at))" :x2="x(now || ms(day.at))" :y1="TOP - 4" :y2="height" class="now" />
      </svg>
    </div>
    <p v-if="more > 0" class="muted more">{{ more }} more {{ more === 1 ? 'runs' : 'run' }} by {{ more === 1 ? 'itself' : 'themselves' }} in that time.</p>
  </section>
</template>

<style scoped>
.day {
  border-top: 1px solid var(--rule);
  padding: 4px 0 10px;
}

.top {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
}

h2 {
  font-size: 16px;
}

.top .muted {
  font-size: 14px;
}

.spans {
  margin-left: auto;
}

.spans [aria-pressed='true'] {
  color: var(--ink);
  text-decoration: none;
}

svg {
  display: block;
  font-size: 13px;
}

.closed {
  fill: var(--rule);
}

.range {
  fill: var(--petrol);
  opacity: 0.45;
}

.tick {
  stroke: var(--rule);
}

.midnight {
  font-weight: 700;
  stroke: none;
}

line.midnight {
  stroke: var(--ink);
}

.at {
  fill: var(--muted);
  font-family: var(--mono);
  text-anchor: middle;
}

.rule {
  stroke: var(--rule);
  stroke-width: 0.5;
}

.name {
  fill: var(--muted);
}

.name.hands {
  fill: var(--copper);
  font-weight: 700;
}

.bar {
  cursor: pointer;
}

.body {
  fill: var(--paper);
  stroke: var(--petrol);
  stroke-width: 1.2;
}

.begun .body {
  fill: var(--petrol-tint);
  stroke-width: 2.4;
}

.hands .body {
  fill: var(--copper-tint);
  stroke: var(--copper);
}

.bar text {
  fill: var(--ink);
  font-size: 12.5px;
  pointer-events: none;
}

.now {
  stroke: var(--copper);
  stroke-width: 2;
}

.more {
  font-size: 14px;
}
</style>
