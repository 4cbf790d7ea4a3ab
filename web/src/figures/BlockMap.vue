<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/**
 * The block as it lies on the bench: the side that is up, its strips, each cell's pole. Turned over, x is mirrored and the copper mark on
 * the real corner goes with it. Strips are as thick as their current and hatched as they warm; a cell that stands wrong is crossed.
 * Of several layers one is in hand, the others are outlines; a strip that leaves its face is dashed.
 */
type Cell = Schemas['MappedCell']
const props = defineProps<{
  cells: Cell[]
  links: Schemas['Link'][]
  side: 'top' | 'bottom'
  diameter: number
  /** The layer in hand; without it, all stand in one. */
  layer?: number
  /** Length of a cell, for those that lie. */
  length?: number
  segments?: Schemas['SegmentCurrent'][]
  shares?: Record<string, number>
  polarity?: Schemas['CellPolarity'][]
  chosen?: string | null
  /** Cells that the step at hand is about. */
  marked?: string[]
  /** Where temperature sensors sit, by the cells they touch. */
  sensors?: Schemas['SensorSpot'][]
  /** Nothing is to be chosen on it. */
  still?: boolean
}>()
const emit = defineEmits<{ choose: [string] }>()
const r = computed(() => props.diameter / 2)
const pad = 5
const layer = computed(() => props.layer ?? 1)
const held = computed(() => props.cells.filter((c) => (c.layer ?? 1) === layer.value))
const others = computed(() => props.cells.filter((c) => (c.layer ?? 1) !== layer.value))
/** The box a cell takes, seen from above. */
function box(c: Cell) {
  const [w, h] = [c.lies === 'across' ? props.length ?? 65 : props.diameter, c.lies === 'along' ? props.length ?? 65 : props.diameter]
  return { x: c.x_mm - w / 2, y: c.y_mm - h / 2, width: w, height: h, rx: c.lies && c.lies !== 'standing' ? 2 : r.value }
}
const frame = computed(() => {
  const boxes = props.cells.map(box)
  const [x, y] = [Math.min(...boxes.map((b) => b.x)) - pad, Math.min(...boxes.map((b) => b.y)) - pad]
  return { x, y, w: Math.max(...boxes.map((b) => b.x + b.width)) + pad - x, h: Math.max(...boxes.map((b) => b.y + b.height)) + pad - y }
})
// Which pole a cell shows, in words: of one that lies, its right or its far end.
const shows = (c: Cell) => `${c.top} ${c.lies === 'across' ? 'to the right' : c.lies === 'along' ? 'to the far end' : 'up'}`
const place = computed(() => new Map(props.cells.map((c) => [c.cell, c])))
const most = computed(() => Math.max(...(props.segments ?? []).map((s) => Math.abs(s.current_a)), 1e-9))
const lines = computed(() =>
  props.links
    .flatMap((link) => (props.segments ?? []).filter((s) => s.segment.startsWith(`${link.link} `)).map((s) => ({ link, s, ends: /^\S+ (.+) to (.+)$/.exec(s.segment) })))
    .flatMap(({ link, s, ends }) => {
      const [a, b] = [place.value.get(ends?.[1] ?? ''), place.value.get(ends?.[2] ?? '')]
      const [on, to] = [face(link, a?.cell), face(link, b?.cell)]
      const shown = [on, to].some((f) => f.layer === layer.value && (f.side ?? props.side) === props.side)
      return a && b && shown ? [{ leaves: on.layer !== to.layer || on.side !== to.side, key: s.segment, a, b, tap: link.tap, amps: s.current_a, rise: s.over_cell_k, width: 1.2 + 5.5 * (Math.abs(s.current_a) / most.value) }] : []
    }),
)
function face(link: Schemas['Link'], cell: string | undefined) {
  return (link.faces ?? []).find((f) => f.cells.includes(cell ?? '')) ?? { layer: 1, side: link.side }
}
const state = (cell: string) => props.polarity?.find((p) => p.cell === cell)?.right ?? null
const spots = computed(() =>
  (props.sensors ?? []).flatMap((s) => {
    const at = s.between.flatMap((name) => place.value.get(name) ?? [])
    return at.length ? [{ name: s.sensor, x: at.reduce((n, c) => n + c.x_mm, 0) / at.length, y: at.reduce((n, c) => n + c.y_mm, 0) / at.length }] : []
  }),
)
// The warmest strips of the side carry their figure: what is hatched is read in grey, too.
// Where every cell carries the whole current, its share says nothing.
const uneven = computed(() => Object.values(props.shares ?? {}).some((share) => Math.abs(share - 1) >= 0.005))
const warmest = computed(() => (props.shares ? [...lines.value].sort((a, b) => b.rise - a.rise).slice(0, 3) : []))
// The real corner: at the left from above, at the right from below.
const corner = computed(() => (props.side === 'top' ? frame.value.x + pad : frame.value.x + frame.value.w - pad))
</script>

<template>
  <svg class="map" :viewBox="`${frame.x} ${frame.y} ${frame.w} ${frame.h}`" role="img" :aria-label="`The block, ${side === 'top' ? 'upper' : 'lower'} side up`">
    <defs><pattern id="warm" width="2.4" height="2.4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><rect width="2.4" height="2.4" class="cool" /><line x1="0" y1="0" x2="0" y2="2.4" class="hot" /></pattern></defs>
    <path :d="`M${corner - 2.5} ${frame.y + 1.2}h5v5h-5z`" class="corner" />
    <line v-for="l in lines" :key="l.key" :x1="l.a.x_mm" :y1="l.a.y_mm" :x2="l.b.x_mm" :y2="l.b.y_mm" :stroke-width="l.width" :class="['strip', { warm: l.rise > 20, leaves: l.leaves }]"><title>tap {{ l.tap }}: {{ Math.abs(l.amps).toFixed(1) }} A, {{ l.rise.toFixed(1) }} K</title></line>
    <rect v-for="c in others" :key="`o${c.cell}`" v-bind="box(c)" class="outline"><title>{{ c.cell }}, in layer {{ c.layer }}</title></rect>
    <circle v-for="l in lines.filter((x) => x.leaves && x.a.x_mm === x.b.x_mm && x.a.y_mm === x.b.y_mm)" :key="`f${l.key}`" :cx="l.a.x_mm" :cy="l.a.y_mm" :r="r * 0.82" class="strip leaves" stroke-width="1.6"><title>tap {{ l.tap }}, from layer to layer</title></circle>
    <g v-for="c in held" :key="c.cell" class="cell" :class="{ chosen: c.cell === chosen, marked: marked?.includes(c.cell), wrong: state(c.cell) === false, read: state(c.cell) === true }" :role="still ? undefined : 'button'" :aria-label="`${c.cell}, group ${c.group}, ${shows(c)}`" :tabindex="still ? undefined : 0" @click="emit('choose', c.cell)" @keydown.enter="emit('choose', c.cell)">
      <rect v-bind="box(c)" class="can" />
      <template v-if="c.lies === 'across' || c.lies === 'along'"><text :x="box(c).x + (c.lies === 'across' ? box(c).width - 4 : box(c).width / 2)" :y="c.lies === 'across' ? c.y_mm + 1.8 : box(c).y + 6" class="sign">{{ c.top === 'positive' ? '+' : '−' }}</text></template>
      <circle v-else-if="c.top === 'positive'" :cx="c.x_mm" :cy="c.y_mm" :r="r * 0.42" class="button" />
      <text v-if="!c.lies || c.lies === 'standing'" :x="c.x_mm" :y="c.y_mm - r * 0.5" class="sign">{{ c.top === 'positive' ? '+' : '−' }}</text>
      <text :x="c.x_mm" :y="c.y_mm + r * 0.18" class="group">{{ c.group }}</text>
      <text :x="c.x_mm" :y="c.y_mm + r * 0.66" class="name" :class="{ share: uneven }">{{ uneven && shares?.[c.cell] ? `${Math.round(shares[c.cell]! * 100)} %` : c.cell }}</text>
      <path v-if="state(c.cell) === false" :d="`M${c.x_mm - r * 0.7} ${c.y_mm - r * 0.7}l${r * 1.4} ${r * 1.4}m0 ${-r * 1.4}l${-r * 1.4} ${r * 1.4}`" class="cross" />
    </g>
    <text v-for="l in warmest" :key="`k${l.key}`" :x="(l.a.x_mm + l.b.x_mm) / 2" :y="(l.a.y_mm + l.b.y_mm) / 2 + 1.2" class="kelvin">{{ l.rise.toFixed(0) }} K</text>
    <g v-for="s in spots" :key="s.name" class="sensor"><path :d="`M${s.x} ${s.y - 2.6}l2.6 2.6l-2.6 2.6l-2.6 -2.6z`" /><text :x="s.x + 3.6" :y="s.y + 1">{{ s.name }}</text></g>
  </svg>
</template>

<style scoped>
.map {
  background: var(--sheet);
  display: block;
  max-height: 430px;
  width: 100%;
}

.corner {
  fill: var(--copper);
}

.strip {
  stroke: var(--petrol);
  stroke-linecap: round;
  opacity: 0.55;
}

.warm {
  opacity: 0.9;
  stroke: url('#warm');
}

.leaves {
  fill: none;
  stroke: var(--petrol);
  stroke-dasharray: 2.2 1.6;
}

.outline {
  fill: none;
  stroke: var(--muted);
  stroke-dasharray: 1 1.6;
  stroke-width: 0.5;
}

.cool {
  fill: var(--petrol);
}

.hot {
  stroke: var(--copper);
  stroke-width: 1.6;
}

.cell {
  cursor: pointer;
}

.can {
  fill: color-mix(in srgb, var(--sheet) 62%, transparent);
  stroke: var(--ink);
  stroke-width: 0.5;
}

.button {
  fill: none;
  stroke: var(--ink);
  stroke-width: 0.4;
}

.read .can {
  stroke: var(--petrol);
  stroke-width: 1.3;
}

.chosen .can {
  stroke: var(--copper);
  stroke-width: 1.5;
}

.marked .can {
  stroke: var(--copper);
  stroke-dasharray: 3 1.4;
  stroke-width: 2;
}

.kelvin {
  font-size: 4.4px;
  font-weight: 700;
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 1.2;
}

.sensor path {
  fill: var(--copper-tint);
  stroke: var(--copper);
  stroke-width: 0.6;
}

.sensor text {
  font-size: 3px;
  font-weight: 700;
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 1;
  text-anchor: start;
}

.wrong .can,
.cross {
  fill: none;
  stroke: var(--hazard);
  stroke-width: 1.3;
}

text {
  fill: var(--ink);
  text-anchor: middle;
}

.sign {
  font-size: 5px;
  font-weight: 700;
}

.group {
  font-size: 5px;
}

.name {
  fill: var(--muted);
  font-size: 3.6px;
}

.name.share {
  fill: var(--ink);
  font-size: 4.4px;
}

.cell:focus-visible {
  outline: none;
}

.cell:focus-visible .can {
  stroke: var(--copper);
  stroke-width: 2;
}
</style>
