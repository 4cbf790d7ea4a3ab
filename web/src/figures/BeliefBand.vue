<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import type { Schemas } from '@/api/client'
import { dark } from '@/composables/useSettings'

use([LineChart, GridComponent, TooltipComponent, CanvasRenderer])

/** How belief moved: each leading cause's chance before any evidence and after each piece, told apart by stroke and name. */
const props = defineProps<{ moved: Schemas['BeliefMoved'] }>()
const token = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
const STROKES = [
  { colour: '--ink', type: 'solid', width: 3 },
  { colour: '--petrol', type: 'dashed', width: 2.5 },
  { colour: '--copper', type: [2, 4], width: 2.5 },
  { colour: '--muted', type: [10, 4, 2, 4], width: 2 },
] as const
const short = (says: string) => (says.length > 24 ? `${says.slice(0, 22).trimEnd()}…` : says)
const option = computed(() => {
  void dark.value
  const label = { color: token('--muted'), fontFamily: token('--text'), fontSize: 13 }
  const names = ['before', ...props.moved.steps.map((s) => short(s.says))]
  const last = (i: number) => props.moved.steps.at(-1)?.chances[i] ?? props.moved.before[i]!
  const lead = STROKES.map((_, i) => i).filter((i) => i < props.moved.causes.length)
  return {
    animation: false,
    grid: { left: 40, right: 14, top: 10, bottom: 52 },
    tooltip: {
      trigger: 'axis', backgroundColor: token('--sheet'), borderColor: token('--rule'), textStyle: { color: token('--ink'), fontFamily: token('--text') },
      formatter: (of: { dataIndex: number }[]) => {
        const at = of[0]!.dataIndex
        const chances = at ? props.moved.steps[at - 1]!.chances : props.moved.before
        const box = document.createElement('div')
        for (const line of [at ? props.moved.steps[at - 1]!.says : 'Before any evidence', ...lead.map((i) => `${Math.round(chances[i]! * 100)} % ${props.moved.names[i]}`)]) box.appendChild(document.createElement('div')).textContent = line
        return box
      },
    },
    xAxis: { type: 'category', data: names, boundaryGap: false, axisLabel: { ...label, interval: 0, width: 92, overflow: 'break', lineHeight: 14, alignMinLabel: 'left', alignMaxLabel: 'right', hideOverlap: true }, axisTick: { show: false }, axisLine: { lineStyle: { color: token('--rule') } } },
    yAxis: { type: 'value', min: 0, max: 1, interval: 0.5, axisLabel: { ...label, formatter: (v: number) => `${v * 100} %` }, splitLine: { lineStyle: { color: token('--rule-soft') } } },
    series: lead.map((i) => ({
      type: 'line', step: 'end', name: props.moved.names[i], data: [props.moved.before[i], ...props.moved.steps.map((s) => s.chances[i])], symbol: 'none',
      lineStyle: { color: token(STROKES[i]!.colour), width: STROKES[i]!.width, type: STROKES[i]!.type }, z: last(i) * 10,
    })),
  }
})
</script>

<template>
  <figure class="belief">
    <VChart :option="option" autoresize class="plot" role="img" aria-label="How the chances changed with each piece of evidence" />
    <figcaption class="key" aria-hidden="true">
      <span v-for="(name, i) in moved.names.slice(0, 4)" :key="name"><i :class="`s${i}`"></i>{{ name }}</span>
    </figcaption>
  </figure>
</template>

<style scoped>
.belief {
  margin: 0;
}

.plot {
  height: 170px;
}

.key {
  color: var(--muted);
  display: flex;
  flex-wrap: wrap;
  font-size: 14px;
  gap: 2px 18px;
}

i {
  border-top: 3px solid var(--ink);
  display: inline-block;
  margin: 0 6px 4px 0;
  width: 26px;
}

.s1 {
  border-top: 3px dashed var(--petrol);
}

.s2 {
  border-top: 3px dotted var(--copper);
}

.s3 {
  border-top: 2px dashed var(--muted);
}
</style>
