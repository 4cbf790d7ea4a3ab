<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import type { Schemas } from '@/api/client'
import { dark } from '@/composables/useSettings'

use([LineChart, GridComponent, CanvasRenderer])

/** The chip's volts and current over the seconds, each with an instrument's beside it as a thinner line. */
const props = defineProps<{ moments: Schemas['WatchedWords'][] }>()
const token = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()
const option = computed(() => {
  void dark.value
  const began = props.moments[0]!.at
  const label = { color: token('--muted'), fontFamily: token('--mono'), fontSize: 13 }
  const axis = { axisLabel: label, axisLine: { show: false }, axisTick: { show: false }, splitLine: { lineStyle: { color: token('--rule-soft') } } }
  const line = (of: 'voltage_v' | 'current_a' | 'beside_v' | 'beside_a', yAxisIndex: number, color: string, width: number, type = 'solid') => ({
    type: 'line', yAxisIndex, showSymbol: false, connectNulls: false, lineStyle: { color: token(color), width, type }, data: props.moments.map((m) => [m.at - began, m[of] ?? null]),
  })
  return {
    animation: false,
    grid: { left: 52, right: 52, top: 26, bottom: 26 },
    xAxis: { type: 'value', min: 0, ...axis, splitLine: { show: false }, axisLabel: { ...label, formatter: (s: number) => `${Math.round(s)} s` } },
    yAxis: [
      { type: 'value', name: 'V', scale: true, minInterval: 0.05, nameTextStyle: label, ...axis },
      { type: 'value', name: 'A', scale: true, minInterval: 0.5, nameTextStyle: label, ...axis, splitLine: { show: false } },
    ],
    series: [line('voltage_v', 0, '--ink', 3), line('beside_v', 0, '--ink', 1.2), line('current_a', 1, '--petrol', 3, 'dashed'), line('beside_a', 1, '--petrol', 1.2, 'dashed')],
  }
})
</script>

<template>
  <div class="chart">
    <VChart :option="option" autoresize class="plot" role="img" aria-label="Volts and current by the chip, and by the instrument beside it, over the last minutes" />
    <p class="muted">Thick: the chip. Thin: the instrument. Solid: volts. Dashed: current.</p>
  </div>
</template>

<style scoped>
.plot {
  height: 190px;
}
</style>
