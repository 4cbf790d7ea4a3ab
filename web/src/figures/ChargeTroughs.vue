<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, useTemplateRef } from 'vue'
import type { Schemas } from '@/api/client'
import { ampHours, percent } from '@/composables/format'
import { type From, vFrom } from '@/composables/origin'

/** What each group holds: the part in use between charger and tool, the part stranded below it, the room never filled. */
const props = defineProps<{ balance: Schemas['Balance']; barred?: number[]; from: (group: number) => From }>()
const open = computed(() => !props.barred?.length)

const box = useTemplateRef<HTMLElement>('box')
const { width } = useElementSize(box)

const LEFT = 34
const RIGHT = 176
const TOP = 26
const rows = computed(() => props.balance.groups.toReversed())
const row = computed(() => Math.max(20, Math.min(34, 312 / props.balance.groups.length)))
const height = computed(() => TOP + rows.value.length * row.value + 4)
const most = computed(() => Math.max(...props.balance.groups.map((g) => g.capacity_ah)))
const x = (ah: number) => LEFT + (ah / most.value) * Math.max(width.value - LEFT - RIGHT, 80)
const given = computed(() => (open.value ? Math.min(...props.balance.groups.map((g) => g.holds_ah)) : 0))
const taken = computed(() => (open.value ? Math.min(...props.balance.groups.map((g) => g.to_full_ah)) : 0))
const y = (i: number) => TOP + i * row.value
const thick = computed(() => row.value - 8)
const wide = computed(() => Math.max(width.value, 300))
</script>

<template>
  <div ref="box" class="troughs">
    <svg v-if="width" :viewBox="`0 0 ${wide} ${height}`" :width="wide" :height="height" role="group" aria-label="Charge per group">
      <defs>
        <pattern id="stranded" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
          <rect width="7" height="7" class="stranded-ground" />
          <rect width="2.5" height="7" class="stranded-line" />
        </pattern>
        <pattern id="barred" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="9" height="9" class="barred-ground" />
          <rect width="4" height="9" class="barred-line" />
        </pattern>
      </defs>
      <text :x="LEFT" :y="14" class="head">empty</text>
      <text :x="x(most)" :y="14" text-anchor="end" class="head">full, {{ ampHours(most) }} Ah</text>
      <text :x="wide - 96" :y="14" text-anchor="end" class="head">charge</text>
      <text :x="wide" :y="14" text-anchor="end" class="head">to full</text>
      <g v-for="(g, i) in rows" :key="g.group" v-from="from(g.group)" role="img" :aria-label="`group ${g.group} holds ${ampHours(g.holds_ah)} of ${ampHours(g.capacity_ah)} Ah`">
        <text :x="LEFT - 10" :y="y(i) + thick / 2 + 5" text-anchor="end" class="number">{{ g.group }}</text>
        <rect :x="x(0)" :y="y(i)" :width="x(g.capacity_ah) - x(0)" :height="thick" class="room" />
        <template v-if="barred?.includes(g.group)">
          <rect :x="x(0)" :y="y(i)" :width="x(g.capacity_ah) - x(0)" :height="thick" fill="url(#barred)" />
          <text :x="x(0) + 10" :y="y(i) + thick / 2 + 5" class="never">not to be charged</text>
        </template>
        <template v-else-if="g.tells">
          <rect v-if="open" :x="x(0)" :y="y(i)" :width="Math.max(x(g.holds_ah - given) - x(0), 0)" :height="thick" fill="url(#stranded)" />
          <rect :x="x(open ? g.holds_ah - given : 0)" :y="y(i)" :width="x(g.holds_ah) - x(open ? g.holds_ah - given : 0)" :height="thick" class="use" />
          <rect :x="x(g.holds_ah)" :y="y(i)" :width="x(Math.min(g.holds_ah + taken, g.capacity_ah)) - x(g.holds_ah)" :height="thick" class="take" />
          <path :d="`M${x(g.soc_low * g.capacity_ah)} ${y(i) + thick / 2}H${x(g.soc_high * g.capacity_ah)}`" class="doubt" />
          <path :d="`M${x(g.holds_ah)} ${y(i) - 3}v${thick + 6}`" class="now" />
        </template>
        <text v-else :x="x(0) + 8" :y="y(i) + thick / 2 + 5" class="cannot">cannot tell from voltage</text>
        <text :x="wide - 96" :y="y(i) + thick / 2 + 5" text-anchor="end" class="number value">{{ g.tells ? percent(g.soc) : '?' }}</text>
        <text :x="wide" :y="y(i) + thick / 2 + 5" text-anchor="end" class="number value">{{ barred?.includes(g.group) ? '–' : g.tells ? `${ampHours(g.to_full_ah)} Ah` : '?' }}</text>
      </g>
    </svg>
    <ul v-if="open" class="key" aria-hidden="true">
      <li><i class="k use"></i>the tool gets</li>
      <li><i class="k take"></i>the charger adds</li>
      <li><i class="k stranded"></i>stranded in fuller groups</li>
      <li><i class="k room"></i>never filled</li>
    </ul>
  </div>
</template>

<style scoped>
svg {
  display: block;
  font-family: var(--mono);
  font-size: 14px;
}

.head {
  fill: var(--muted);
  font-family: var(--text);
  font-size: 13.5px;
}

.number {
  fill: var(--muted);
}

.value {
  fill: var(--ink);
  font-size: 15px;
}

.room {
  fill: var(--rule-soft);
}

.use {
  background: var(--petrol);
  fill: var(--petrol);
}

.take {
  background: color-mix(in srgb, var(--petrol) 45%, var(--sheet));
  fill: color-mix(in srgb, var(--petrol) 45%, var(--sheet));
}

.stranded-ground {
  fill: var(--copper-tint);
}

.stranded-line {
  fill: var(--copper);
}

.barred-ground {
  fill: var(--hazard-tint);
}

.barred-line {
  fill: color-mix(in srgb, var(--hazard) 35%, transparent);
}

.never {
  fill: var(--ink);
  font-family: var(--text);
  font-weight: 700;
}

.doubt {
  stroke: var(--ink);
  stroke-width: 1.5;
}

.now {
  stroke: var(--ink);
  stroke-width: 2.5;
}

.cannot {
  fill: var(--muted);
  font-family: var(--text);
}

.key {
  color: var(--muted);
  display: flex;
  flex-wrap: wrap;
  font-size: 14px;
  gap: 4px 18px;
  list-style: none;
  margin: 10px 0 0;
  padding: 0 0 0 34px;
}

.k {
  display: inline-block;
  height: 12px;
  margin-right: 7px;
  width: 22px;
}

.k.stranded {
  background: repeating-linear-gradient(-45deg, var(--copper) 0 3px, var(--copper-tint) 3px 7px);
}

.k.room {
  background: var(--rule-soft);
  outline: 1px solid var(--rule);
}
</style>
