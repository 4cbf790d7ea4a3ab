<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent, MarkAreaComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import { degrees } from '@/composables/degrees'
import { dark } from '@/composables/useSettings'

use([LineChart, GridComponent, MarkAreaComponent, CanvasRenderer])

/** A charge, forecast or as measured so far: voltage rising, current falling, how warm it is, the span in which it should end. */
const props = defineProps<{ points: { seconds: number; volts: number; amps: number; celsius?: number | null }[]; lowS: number; highS: number; low?: boolean }>()

const token = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()

const option = computed(() => {
  void dark.value
  const end = Math.max(props.highS, props.points.at(-1)?.seconds ?? 0) / 60
  const label = { color: token('--muted'), fontFamily: token('--mono'), fontSize: 13 }
  const axis = { axisLabel: label, axisLine: { show: false }, axisTick: { show: false }, splitLine: { lineStyle: { color: token('--rule-soft') } } }
  const volts = props.points.map((p) => [p.seconds / 60, p.volts])
  const amps = props.points.map((p) => [p.seconds / 60, p.amps])
  const warm = props.points.filter((p) => p.celsius != null).map((p) => [p.seconds / 60, p.celsius!])
  const lowest = Math.min(...props.points.map((p) => p.volts))
  return {
    animation: false,
    grid: { left: 48, right: 48, top: 26, bottom: 26 },
    xAxis: { type: 'value', min: 0, max: Math.ceil(end * 1.03), ...axis, splitLine: { show: false }, axisLabel: { ...label, formatter: (m: number) => `${Math.floor(m / 60)}:${String(Math.round(m % 60)).padStart(2, '0')}` } },
    yAxis: [
      { type: 'value', name: 'V', min: Math.floor(lowest * 5) / 5, minInterval: 0.1, splitNumber: props.low ? 2 : 5, nameTextStyle: label, ...axis, axisLabel: { ...label, formatter: (v: number) => v.toFixed(1) } },
      { type: 'value', name: 'A', min: 0, nameTextStyle: label, ...axis, splitLine: { show: false } },
      { type: 'value', min: 0, max: 60, show: false },
    ],
    series: [
      {
        type: 'line',
        data: volts,
        showSymbol: false,
        lineStyle: { color: token('--ink'), width: 2.5 },
        markArea: { silent: true, itemStyle: { color: token('--petrol-tint') }, label: { show: !props.low, position: 'insideBottom', color: token('--muted'), fontFamily: token('--text'), fontSize: 13, formatter: 'should end here' }, data: [[{ xAxis: props.lowS / 60 }, { xAxis: props.highS / 60 }]] },
      },
      ...(warm.length ? [{ type: 'line', data: warm, yAxisIndex: 2, showSymbol: false, lineStyle: { color: token('--copper'), width: 1.5, type: 'dotted' } }] : []),
      { type: 'line', data: amps, yAxisIndex: 1, showSymbol: false, lineStyle: { color: token('--petrol'), width: 2.5, type: 'dashed' } },
    ],
  }
})
</script>

<template>
  <div class="chart">
    <VChart :option="option" autoresize class="plot" :class="{ low }" role="img" aria-label="Voltage rises, current falls, shaded where the charge should end" />
    <p class="key muted" aria-hidden="true"><i class="v"></i> volts <i class="a"></i> amps<template v-if="points.at(-1)?.celsius != null"> <i class="c"></i> {{ degrees(points.at(-1)!.celsius!, 0) }}</template></p>
  </div>
</template>

<style scoped>
.chart {
  position: relative;
}

.plot {
  height: 160px;
}

.low {
  height: 120px;
}

.key {
  font-size: 14px;
  position: absolute;
  right: 60px;
  top: -2px;
}

i {
  border-top: 3px solid var(--ink);
  display: inline-block;
  margin: 0 4px 4px 12px;
  width: 22px;
}

.a {
  border-top: 3px dashed var(--petrol);
}

.c {
  border-top: 2px dotted var(--copper);
}
</style>
