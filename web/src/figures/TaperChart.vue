<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent, MarkAreaComponent, MarkLineComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import type { Schemas } from '@/api/client'
import { dark } from '@/composables/useSettings'

use([LineChart, GridComponent, MarkLineComponent, MarkAreaComponent, CanvasRenderer])

/** A charge as forecast: voltage rising, current falling, the span in which it should end, and how far it is now. */
const props = defineProps<{ forecast: Schemas['ChargeForecast']; elapsedS?: number | null }>()

const token = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()

const option = computed(() => {
  void dark.value
  const { curve } = props.forecast
  const minutes = curve.time_s.map((s) => s / 60)
  const end = Math.max(props.forecast.duration_high_s, props.forecast.duration_s) / 60
  const label = { color: token('--muted'), fontFamily: token('--mono'), fontSize: 13 }
  const axis = { axisLabel: label, axisLine: { show: false }, axisTick: { show: false }, splitLine: { lineStyle: { color: token('--rule-soft') } } }
  const volts = minutes.map((m, i) => [m, curve.volts[i]])
  const amps = minutes.map((m, i) => [m, curve.amps[i]])
  const lowest = Math.min(...curve.volts)
  return {
    animation: false,
    grid: { left: 48, right: 48, top: 26, bottom: 26 },
    xAxis: { type: 'value', min: 0, max: Math.ceil(end * 1.03), ...axis, splitLine: { show: false }, axisLabel: { ...label, formatter: (m: number) => `${Math.floor(m / 60)}:${String(Math.round(m % 60)).padStart(2, '0')}` } },
    yAxis: [
      { type: 'value', name: 'V', min: Math.floor(lowest * 5) / 5, nameTextStyle: label, ...axis, axisLabel: { ...label, formatter: (v: number) => v.toFixed(1) } },
      { type: 'value', name: 'A', min: 0, nameTextStyle: label, ...axis, splitLine: { show: false } },
    ],
    series: [
      {
        type: 'line',
        data: volts,
        showSymbol: false,
        lineStyle: { color: token('--ink'), width: 2.5 },
        markArea: { silent: true, itemStyle: { color: token('--petrol-tint') }, label: { show: true, position: 'insideBottom', color: token('--muted'), fontFamily: token('--text'), fontSize: 13, formatter: 'should end here' }, data: [[{ xAxis: props.forecast.duration_low_s / 60 }, { xAxis: props.forecast.duration_high_s / 60 }]] },
        markLine: props.elapsedS == null ? undefined : { silent: true, symbol: 'none', lineStyle: { color: token('--copper'), width: 2, type: 'solid' }, label: { show: true, formatter: 'now', color: token('--copper'), fontFamily: token('--text') }, data: [{ xAxis: Math.min(props.elapsedS / 60, end * 1.03) }] },
      },
      { type: 'line', data: amps, yAxisIndex: 1, showSymbol: false, lineStyle: { color: token('--petrol'), width: 2.5, type: 'dashed' } },
    ],
  }
})
</script>

<template>
  <div class="chart">
    <VChart :option="option" autoresize class="plot" role="img" aria-label="Forecast: voltage rises, current falls, shaded where the charge should end" />
    <p class="key muted" aria-hidden="true"><i class="v" /> volts <i class="a" /> amps</p>
  </div>
</template>

<style scoped>
.chart {
  position: relative;
}

.plot {
  height: 190px;
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
</style>
