<script setup lang="ts">
import { computed, ref, shallowRef, useTemplateRef } from 'vue'

/**
 * Every cell a mark where its capacity and resistance put it: told apart by shape first, so that it reads without colour. One path a
 * grade, so that ten thousand are drawn as fast as ten.
 */
export interface Box {
  ah: [number, number]
  ohm: [number, number]
}
const props = defineProps<{
  names: string[]
  capacityAh: number[]
  ohm: number[]
  grade: number[]
  grades: { key: string; name: string }[]
  rated?: number | null
  box: Box | null
  chosen?: string | null
  ringed?: string[]
}>()
const emit = defineEmits<{ box: [Box | null]; choose: [string] }>()

const W = 860
const H = 286
const LEFT = 58
const BOTTOM = 40
const PAD = 12
const svg = useTemplateRef<SVGSVGElement>('svg')

function range(values: number[], least: number): [number, number] {
  let low = Infinity
  let high = -Infinity
  for (const v of values) {
    if (v < low) low = v
    if (v > high) high = v
  }
  if (low > high) return [0, 1]
  const gap = Math.max((high - low) * 0.06, least * high, 1e-6)
  return [Math.max(low - gap, 0), high + gap]
}
const x = computed(() => range(props.rated ? [...props.capacityAh, props.rated] : props.capacityAh, 0.02))
const y = computed(() => range(props.ohm, 0.05))
const px = (ah: number) => LEFT + ((ah - x.value[0]) / (x.value[1] - x.value[0])) * (W - LEFT - PAD)
const py = (ohm: number) => H - BOTTOM - ((ohm - y.value[0]) / (y.value[1] - y.value[0])) * (H - BOTTOM - PAD)

// First: an upright tick. Second: a leaning one. Light duty: a flat one. Not for packs: a cross. Not tested: a dot's worth.
const SHAPES: ((a: number, b: number) => string)[] = [
  (a, b) => `M${a} ${b - 5}V${b + 5}`,
  (a, b) => `M${a - 3} ${b + 4}L${a + 3} ${b - 4}`,
  (a, b) => `M${a - 5} ${b}H${a + 5}`,
  (a, b) => `M${a - 4} ${b - 4}L${a + 4} ${b + 4}M${a - 4} ${b + 4}L${a + 4} ${b - 4}`,
  (a, b) => `M${a - 1} ${b}H${a + 1}`,
]
const paths = computed(() => {
  const made: string[][] = SHAPES.map(() => [])
  for (let i = 0; i < props.names.length; i++) {
    const g = props.grade[i]!
    made[g]!.push(SHAPES[g]!(Math.round(px(props.capacityAh[i]!) * 10) / 10, Math.round(py(props.ohm[i]!) * 10) / 10))
  }
  return made.map((parts) => parts.join(''))
})
const count = (g: number) => props.grade.reduce((n, of) => n + (of === g ? 1 : 0), 0)

function steps([low, high]: [number, number]): number[] {
  const rough = (high - low) / 6
  const ten = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].map((m) => m * ten).find((s) => s >= rough) ?? ten
  const found: number[] = []
  for (let v = Math.ceil(low / step) * step; v <= high; v += step) found.push(v)
  return found
}
const digits = (values: number[]) => (values.length > 1 && values[1]! - values[0]! < 0.1 ? 2 : 1)

const from = shallowRef<{ a: number; b: number } | null>(null)
const to = shallowRef<{ a: number; b: number } | null>(null)
const over = ref<number | null>(null)

function at(event: PointerEvent) {
  const frame = svg.value!.getBoundingClientRect()
  return { a: ((event.clientX - frame.left) / frame.width) * W, b: ((event.clientY - frame.top) / frame.height) * H }
}
function nearest(a: number, b: number): number | null {
  let best = 14 * 14
  let found: number | null = null
  for (let i = 0; i < props.names.length; i++) {
    const d = (px(props.capacityAh[i]!) - a) ** 2 + (py(props.ohm[i]!) - b) ** 2
    if (d < best) {
      best = d
      found = i
    }
  }
  return found
}
function down(event: PointerEvent) {
  svg.value!.setPointerCapture(event.pointerId)
  from.value = to.value = at(event)
}
function move(event: PointerEvent) {
  const now = at(event)
  if (from.value) to.value = now
  else over.value = nearest(now.a, now.b)
}
function up() {
  const [a, b] = [from.value, to.value]
  from.value = to.value = null
  if (!a || !b) return
  if (Math.abs(a.a - b.a) < 6 && Math.abs(a.b - b.b) < 6) {
    const i = nearest(b.a, b.b)
    if (i === null) emit('box', null)
    else emit('choose', props.names[i]!)
    return
  }
  const ah = (p: number) => x.value[0] + ((p - LEFT) / (W - LEFT - PAD)) * (x.value[1] - x.value[0])
  const ohm = (p: number) => y.value[0] + ((H - BOTTOM - p) / (H - BOTTOM - PAD)) * (y.value[1] - y.value[0])
  emit('box', {
    ah: [Math.max(ah(Math.min(a.a, b.a)), 0), Math.max(ah(Math.max(a.a, b.a)), 0)],
    ohm: [Math.max(ohm(Math.max(a.b, b.b)), 0), Math.max(ohm(Math.min(a.b, b.b)), 0)],
  })
}
const dragged = computed(() => {
  if (from.value && to.value) {
    return { x: Math.min(from.value.a, to.value.a), y: Math.min(from.value.b, to.value.b), w: Math.abs(from.value.a - to.value.a), h: Math.abs(from.value.b - to.value.b) }
  }
  if (!props.box) return null
  const [l, r] = props.box.ah.map(px) as [number, number]
  const [b, t] = props.box.ohm.map(py) as [number, number]
  return { x: l, y: t, w: r - l, h: b - t }
})
const marked = computed(() => {
  const wanted = new Set(props.ringed ?? [])
  if (props.chosen) wanted.add(props.chosen)
  return wanted.size ? props.names.flatMap((name, i) => (wanted.has(name) ? [i] : [])) : []
})
</script>

<template>
  <figure class="plot">
    <svg ref="svg" :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="`${names.length} cells by capacity and resistance`" @pointerdown="down" @pointermove="move" @pointerup="up" @pointerleave="over = null">
      <g class="grid">
        <g v-for="v in steps(x)" :key="`x${v}`"><line :x1="px(v)" :x2="px(v)" :y1="PAD" :y2="H - BOTTOM" /><text :x="px(v)" :y="H - BOTTOM + 16" text-anchor="middle">{{ v.toFixed(digits(steps(x))) }}</text></g>
        <g v-for="v in steps(y)" :key="`y${v}`"><line :x1="LEFT" :x2="W - PAD" :y1="py(v)" :y2="py(v)" /><text :x="LEFT - 7" :y="py(v) + 4" text-anchor="end">{{ Math.round(v * 1e5) / 100 }}</text></g>
      </g>
      <line class="axis" :x1="LEFT" :x2="W - PAD" :y1="H - BOTTOM" :y2="H - BOTTOM" />
      <text class="name" :x="W - PAD" :y="H - 6" text-anchor="end">Ah held, more is better</text>
      <text class="name" :x="LEFT" :y="H - 6">mΩ upward, less is better</text>
      <g v-if="rated" class="rated"><line :x1="px(rated)" :x2="px(rated)" :y1="PAD" :y2="H - BOTTOM" /><text :x="px(rated) - 5" :y="PAD + 10" text-anchor="end">as rated</text></g>
      <path v-for="(d, g) in paths" :key="g" :d="d" :class="`mark of-${grades[g]?.key}`" />
      <circle v-for="i in marked" :key="i" class="ring" :cx="px(capacityAh[i]!)" :cy="py(ohm[i]!)" r="9" />
      <rect v-if="dragged" class="box" :x="dragged.x" :y="dragged.y" :width="Math.max(dragged.w, 0)" :height="Math.max(dragged.h, 0)" />
      <g v-if="over !== null && !from" class="tell">
        <circle :cx="px(capacityAh[over]!)" :cy="py(ohm[over]!)" r="8" />
        <text :x="Math.min(px(capacityAh[over]!) + 12, W - 210)" :y="Math.max(py(ohm[over]!) - 8, 24)">{{ names[over] }}: {{ capacityAh[over]!.toFixed(2) }} Ah, {{ (ohm[over]! * 1000).toFixed(1) }} mΩ</text>
      </g>
      <text v-if="!names.length" class="empty" :x="W / 2" :y="H / 2" text-anchor="middle">No cell here has both a capacity and a resistance yet.</text>
    </svg>
    <figcaption>
      <span v-for="(g, i) in grades" :key="g.key" class="key"><svg viewBox="0 0 16 16" aria-hidden="true"><path :d="SHAPES[i]!(8, 8)" :class="`mark of-${g.key}`" /></svg>{{ g.name }} <span class="mono">{{ count(i) }}</span></span>
    </figcaption>
  </figure>
</template>

<style scoped>
.plot {
  margin: 0;
}

.plot > svg {
  background: var(--sheet);
  cursor: crosshair;
  display: block;
  touch-action: none;
  user-select: none;
  width: 100%;
}

.grid line {
  stroke: var(--rule-soft);
}

text {
  fill: var(--muted);
  font-size: 12.5px;
}

.axis {
  stroke: var(--ink);
}

.rated line {
  stroke: var(--petrol);
  stroke-dasharray: 5 4;
}

.rated text {
  fill: var(--petrol);
}

.mark {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
}

.of-second {
  stroke: var(--petrol);
}

.of-light {
  stroke: var(--copper);
}

.of-not_for_packs {
  stroke: var(--hazard);
}

.of-untested {
  stroke: var(--muted);
  stroke-width: 3;
}

.box {
  fill: color-mix(in srgb, var(--petrol) 10%, transparent);
  stroke: var(--petrol);
  stroke-width: 1.5;
}

.ring,
.tell circle {
  fill: none;
  stroke: var(--copper);
  stroke-width: 2.5;
}

.tell text {
  fill: var(--ink);
  font-size: 14px;
  font-weight: 650;
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 4px;
}

.empty {
  font-size: 16px;
}

figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  padding: 6px 0 0;
}

.key {
  align-items: center;
  display: inline-flex;
  gap: 5px;
}

.key svg {
  height: 16px;
  width: 16px;
}
</style>
