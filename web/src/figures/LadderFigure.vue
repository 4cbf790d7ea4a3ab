<script setup lang="ts">
import { stringName } from '@/composables/build'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { millivolts, volts } from '@/composables/format'
import { pointWords } from '@/composables/points'
import type { Point } from '@/composables/useFigure'
import { dimensions } from './ladder'

/** Every reading as a dimension line on the string, with what it is off the account that holds; doubted ones marked. */
const props = defineProps<{ assessed: Schemas['Assessed']; series: number; strings: number; digits: number }>()
const emit = defineEmits<{ pick: [point: Point] }>()

const LEFT = 68
const TOP = 16
const lines = computed(() => dimensions(props.assessed, props.series / props.strings))
const columns = computed(() => Math.max(...lines.value.map((l) => l.column), 0) + 1)
const pitch = computed(() => Math.min(64, 470 / columns.value))
const rise = computed(() => Math.max(22, Math.min(60, 300 / props.series)))
const height = computed(() => TOP * 2 + props.series * rise.value)
const width = computed(() => LEFT + columns.value * pitch.value + (props.strings > 1 ? 90 : 20))
const y = (tap: number) => TOP + (props.series - tap) * rise.value
const x = (column: number) => LEFT + 14 + (column + 0.5) * pitch.value
const floating = computed(() => new Set(props.assessed.reconciled.findings.flatMap((f) => (f.kind === 'open_tap' ? [f.tap] : []))))
const says = computed(() => props.assessed.reconciled.findings.filter((f) => f.kind !== 'undetermined').map((f) => f.because))
// A short line has room for two digits.
const shown = (l: (typeof lines.value)[number]) => volts(l.volts, l.high - l.low > 1 ? props.digits : 2)
const label = (l: (typeof lines.value)[number]) => `${pointWords(l.point, props.series / props.strings)}: ${shown(l)} V, ${millivolts(l.residual)} mV off${l.doubted ? ', does not fit' : ''}; read it again`
</script>

<template>
  <figure class="ladder">
    <svg :viewBox="`0 0 ${width} ${height}`" :width="width" role="group" aria-label="Readings drawn on the string">
      <line :x1="LEFT" :x2="LEFT" :y1="y(series)" :y2="y(0)" class="string" />
      <g v-for="k in series + 1" :key="k" :class="{ floats: floating.has(k - 1) }">
        <line :x1="LEFT" :x2="width - 14" :y1="y(k - 1)" :y2="y(k - 1)" class="extension" />
        <circle :cx="LEFT" :cy="y(k - 1)" r="4" class="nail" />
        <text :x="LEFT - 10" :y="y(k - 1) + 5" text-anchor="end" class="tap">{{ floating.has(k - 1) ? 'floats' : k - 1 }}</text>
      </g>
      <g v-for="k in strings > 1 ? strings : 0" :key="`string ${k}`">
        <line v-if="k > 1" :x1="4" :x2="width" :y1="y(((k - 1) * series) / strings)" :y2="y(((k - 1) * series) / strings)" class="apart" />
        <text :x="width" :y="y(((k - 1) * series) / strings) - 6" text-anchor="end" class="tap">{{ stringName(k - 1) }}</text>
      </g>
      <g v-for="l in lines" :key="l.index" class="line" :class="{ doubted: l.doubted }" tabindex="0" role="button" :aria-label="label(l)" @click="emit('pick', l.point)" @keydown.enter.prevent="emit('pick', l.point)">
        <title>{{ label(l) }}</title>
        <rect :x="x(l.column) - pitch / 2" :y="y(l.high)" :width="pitch" :height="y(l.low) - y(l.high)" class="touch" />
        <path :d="`M${x(l.column) - 5} ${y(l.high) + 8}l5 -7l5 7M${x(l.column)} ${y(l.high) + 1}V${y(l.low) - 1}M${x(l.column) - 5} ${y(l.low) - 8}l5 7l5 -7`" class="dimension" />
        <text :transform="`translate(${x(l.column)} ${(y(l.high) + y(l.low)) / 2}) rotate(${l.high - l.low > 1 ? -90 : 0})`" text-anchor="middle" class="volts"><tspan x="0" dy="5">{{ shown(l) }}</tspan></text>
        <text v-if="l.residual !== null && Math.abs(l.residual) >= 0.0005" :x="x(l.column) + 7" :y="y(l.low) - 12" class="off">{{ millivolts(l.residual) }}</text>
      </g>
    </svg>
    <figcaption>
      <p v-for="(line, i) in says" :key="i" class="doubt">{{ line }}</p>
      <p v-if="!says.length" class="muted">Every reading fits; small figures are what each is off, in mV. Pick a line to read it again.</p>
    </figcaption>
  </figure>
</template>

<style scoped>
.ladder {
  margin: 0;
}

.apart {
  stroke: var(--ink);
  stroke-dasharray: 8 4;
}

svg {
  display: block;
  font-family: var(--mono);
  max-width: 100%;
}

.string {
  stroke: var(--ink);
  stroke-width: 2.5;
}

.extension {
  stroke: var(--rule);
}

.nail {
  fill: var(--ink);
}

.floats .nail {
  fill: var(--sheet);
  stroke: var(--hazard);
  stroke-dasharray: 3 2;
  stroke-width: 2;
}

.floats .tap,
.doubt {
  fill: var(--hazard);
  color: var(--hazard);
  font-weight: 700;
}

.tap {
  fill: var(--muted);
  font-size: 13px;
}

.line {
  cursor: pointer;
}

.touch {
  fill: transparent;
}

.line:hover .touch,
.line:focus-visible .touch {
  fill: var(--copper-tint);
}

.dimension {
  fill: none;
  stroke: var(--petrol);
  stroke-width: 1.6;
}

.volts {
  fill: var(--ink);
  font-size: 13px;
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 6px;
}

.off {
  fill: var(--muted);
  font-size: 11.5px;
}

.doubted .dimension {
  stroke: var(--hazard);
  stroke-dasharray: 5 3;
  stroke-width: 2.4;
}

.doubted .volts,
.doubted .off {
  fill: var(--hazard);
  font-weight: 700;
}
</style>
