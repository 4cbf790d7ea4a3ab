<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import { stringName } from '@/composables/build'
import { pointShort, tapsOf } from '@/composables/points'
import { useElementSize } from '@vueuse/core'
import { computed, shallowRef, useTemplateRef } from 'vue'
import type { Schemas } from '@/api/client'
import { millivolts, volts } from '@/composables/format'
import { between, type Point } from '@/composables/useFigure'
import GroupBob from './GroupBob.vue'

/** The pack as a string of groups hanging on a plumb line; negative at the bottom, on the chemistry's voltage axis. */
const props = defineProps<{
  series: number
  /** Strings side by side that the groups make, numbered through from one to the next. */
  strings?: number
  window: Schemas['Window']
  digits: number
  assessed: Schemas['Assessed'] | null
  before?: Schemas['Assessed'] | null
  lit?: Point | null
  /** What the number under the focus came from, told in place of the figure's own story. */
  origin?: string | null
  pickable?: boolean
  /** A simulated pack says so in its figure too, wherever that is shown. */
  simulated?: boolean
  /** Groups that charge now, with what their chargers see and where to: they rise on the plumb line. */
  rising?: { group: number; volts: number; target: number; on: boolean }[]
  /** The pack as it now is: which cells are in, what was read before it was changed, what is condemned, and what was left out. */
  now?: Schemas['Now'] | null
  /** Under the string, what stands between it and what stops charger and tool. */
  ends?: boolean
}>()
const emit = defineEmits<{ pick: [point: Point] }>()

const box = useTemplateRef<HTMLElement>('box')
const { width, height } = useElementSize(box)
const told = shallowRef<number | null>(null)
const black = shallowRef({ tap: 0, string: 0 })

// A narrow pane leaves out what each tap reads, which the run beside it tells.
const CUT = 58
const cut = computed(() => (width.value < 262 ? CUT : 0))
const whole = computed(() => Math.max(width.value + cut.value, 250))
const RAIL = 70
const NUMBER = 96
const LEFT = 116
const RIGHT = 62
const TOP = 34
const BOTTOM = computed(() => (sees.value ? 74 : 34))

const groups = computed<Schemas['HangingGroup'][]>(
  () =>
    props.assessed?.verdict.groups ??
    Array.from({ length: props.series }, (_, i) => ({
      group: i + 1,
      volts: null,
      sigma_v: null,
      off_plumb_v: null,
      state: 'unread' as const,
    })),
)
/** What is known of a group that this set has not read: read before the pack was changed, or in another set. */
const held = (group: number) => (groups.value[group - 1]?.volts === null ? (props.now?.groups[group - 1] ?? null) : null)
const changed = (group: number) => props.now?.groups[group - 1]?.cells.find((c) => c.origin !== 'original')?.origin ?? null
const condemned = (group: number) => props.now?.groups[group - 1]?.condemned ?? null
const CONDEMNED: Record<string, string> = { torn_tab: 'tab torn off', under_floor: 'under the floor once', terminals: 'under the floor by the terminals', dead: 'dead once', reversed: 'reversed once' }
const why = (group: number) => { const of = condemned(group); return of ? `${of.placed ? '' : 'perhaps '}${CONDEMNED[of.why] ?? of.why}` : '' }
// Damage of which nobody said where is told once, and not at every group.
const somewhere = computed(() => { const of = props.now?.groups.find((g) => g.condemned && !g.condemned.placed)?.condemned; return of ? (CONDEMNED[of.why] ?? of.why) : null })
// Such a group says so by its own mark already.
const GRAVE = ['under_floor', 'reversed', 'dead']
const CELLS = { new: 'new cells', used: 'used cells', donor: 'cells from a donor', original: '' } as const
const plumb = computed(() => props.assessed?.verdict.plumb_v ?? null)
const many = computed(() => props.strings ?? props.now?.strings ?? 1)
const each = computed(() => props.series / many.value)
const stringOf = (group: number) => Math.floor((group - 1) / each.value)
const names = computed(() => (many.value > 1 ? Array.from({ length: many.value }, (_, k) => stringName(k)) : []))
/** The taps of every string: the plus of one and the minus of the next bear one number and are two places. */
const nails = computed(() =>
  Array.from({ length: many.value }, (_, string) => string).flatMap((string) =>
    Array.from({ length: each.value + 1 }, (_, k) => {
      const tap = string * each.value + k
      return { key: `${string}:${tap}`, tap, string, lowest: k === 0, v: k === 0 ? 0 : (props.assessed?.reconciled.taps_v[tap] ?? null) }
    }),
  ),
)
const touched = (point: Parameters<typeof tapsOf>[0]) => { const of = tapsOf(point); return of ? of.map((tap) => `${stringOf(Math.max(...of))}:${tap}`) : [] }
const readTaps = computed(() => new Set((props.assessed?.readings ?? []).flatMap((reading) => touched(reading))))

const floating = computed(() => new Set((props.assessed?.reconciled.findings ?? []).flatMap((f) => (f.kind === 'open_tap' ? [f.tap] : []))))

const lowest = computed(() => {
  const known = groups.value.flatMap((g) => (g.volts === null || g.state === 'in_doubt' ? [] : [g.volts]))
  return Math.min(props.window.hard_end_v, ...known)
})
const axis = computed(() => {
  const low = Math.floor(lowest.value * 5) / 5
  return { low, high: Math.max(props.window.full_v, ...groups.value.flatMap((g) => (g.state === 'overcharged' && g.volts !== null ? [g.volts] : []))) + 0.05 }
})
const x = (v: number) => {
  const share = (v - axis.value.low) / (axis.value.high - axis.value.low)
  return LEFT + Math.min(Math.max(share, 0), 1.04) * (whole.value - LEFT - RIGHT)
}
/** What the charger and the tool see: the room from the highest group to full, and from the lowest to the tool's end. */
const sees = computed(() => {
  const known = groups.value.flatMap((g) => (g.volts === null || g.state === 'in_doubt' ? [] : [g.volts]))
  if (!props.ends || known.length < props.series) return null
  const [high, low] = [Math.max(...known), Math.min(...known)]
  const room = (v: number) => (v <= 0 ? 'at its end' : v < 1 ? `${Math.round(v * 1000)} mV` : `${v.toFixed(1)} V`)
  return { high, low, charger: room(props.window.full_v - high), tool: room(low - props.window.tool_end_v) }
})
const ticks = computed(() => {
  const span = axis.value.high - axis.value.low
  const perVolt = (whole.value - LEFT - RIGHT) / span
  const step = [0.2, 0.4, 0.5, 1].find((s) => s * perVolt >= 36) ?? 2
  const first = Math.ceil(axis.value.low / step - 1e-6) * step
  const at: number[] = []
  for (let v = first; v <= props.window.full_v + 1e-6; v += step) at.push(Math.round(v * 10) / 10)
  // The full voltage always has its line; a neighbour that would touch its number gives way.
  const full = props.window.full_v
  return [...at.filter((v) => full - v > step * 0.6), full]
})

// The mark of a simulated pack stands where the plumb does not.
const plumbRight = computed(() => plumb.value === null || x(plumb.value) > whole.value / 2)

// Between two strings stand the plus of the lower one and the minus of the upper.
const GAP = 48
const gaps = computed(() => (many.value - 1) * GAP)
const step = computed(() => Math.max((height.value - TOP - BOTTOM.value - gaps.value) / props.series, 18))
const tapY = (tap: number, string: number) => TOP + (props.series - tap) * step.value + (many.value - 1 - string) * GAP
const rowY = (group: number) => (tapY(group, stringOf(group)) + tapY(group - 1, stringOf(group))) / 2
const total = computed(() => Math.max(height.value, TOP + BOTTOM.value + gaps.value + props.series * step.value))

const litNails = computed(() => new Set(props.lit?.kind === 'tap' || props.lit?.kind === 'span' ? touched(props.lit).filter((key) => key !== '0:0') : []))
const litGroup = computed(() => (props.lit?.kind === 'group' ? props.lit.group : null))

/** A tap against the lowest of its string; with shift held, against the tap picked before. */
function pickTap({ tap, string, lowest }: (typeof nails.value)[number], shift: boolean) {
  if (!props.pickable) return
  const base = string * each.value
  if (shift && black.value.tap !== tap && black.value.string === string) emit('pick', between(black.value.tap, tap))
  else if (!lowest) emit('pick', base > 0 ? { kind: 'span', from_tap: base, to_tap: tap } : { kind: 'tap', tap })
  black.value = shift ? black.value : { tap, string }
}
function nailSays({ tap, string, lowest }: (typeof nails.value)[number]): string {
  if (lowest) return many.value > 1 ? `the minus of ${names.value[string]}` : 'tap 0'
  return `read tap ${tap} against ${string > 0 ? `the minus of ${names.value[string]}` : 'tap 0'}`
}

const rises = computed(() => (props.rising ?? []).map((r) => ({ ...r, y: rowY(r.group), from: x(groups.value[r.group - 1]?.volts ?? r.volts), to: x(r.volts), end: x(r.target) })))
const was = (group: number) => props.before?.verdict.groups[group - 1]?.volts ?? null

function label(group: Schemas['HangingGroup']): string {
  const of = props.now?.groups[group.group - 1]
  const more = [of && of.was !== group.group ? `was ${of.was} when it came` : '', CELLS[changed(group.group) ?? 'original'], why(group.group) && `condemned: ${why(group.group)}`].filter(Boolean).join(', ')
  const beside = more ? ` (${more})` : ''
  if (group.volts === null) return held(group.group)?.volts != null ? `group ${group.group}${beside}, ${volts(held(group.group)!.volts!, props.digits)} V ${held(group.group)!.from === 'drawer' ? 'by the drawer' : 'read before'}` : `group ${group.group}${beside}, not read`
  const sigma = group.sigma_v === null ? '' : ` ± ${(2 * group.sigma_v).toFixed(3)}`
  return `group ${group.group}${beside}, ${volts(group.volts, props.digits)}${sigma} V, ${millivolts(group.off_plumb_v)} mV off the plumb, ${group.state.replace('_', ' ')}`
}

/** How a group's voltage was obtained, in the readings' own words. */
const story = computed(() => {
  if (told.value === null) return null
  if (!props.assessed || groups.value[told.value - 1]?.volts === null) {
    const of = groups.value[told.value - 1]
    if (!of) return null
    return held(of.group)?.volts != null ? `${label(of)}.`.replace(/^g/, 'G') : `${label(of).replace(/, not read$/, '').replace(/^g/, 'G')}: no reading settles it yet.`
  }
  const found = props.assessed.reconciled.groups[told.value - 1]
  const group = groups.value[told.value - 1]
  if (!found || !group) return null
  if (found.volts === null) return `Group ${told.value}: no reading settles it yet.`
  const from = found.from_readings
    .map((i) => props.assessed?.readings[i])
    .filter((r) => r !== undefined)
    .map((r) => {
      return `${r.kind === 'group' ? 'across it' : pointShort(r, each.value)} ${volts(r.volts, props.digits)}`
    })
  return `${label(group)}; from ${from.join(', ')}.`.replace(/^g/, 'G')
})
</script>

<template>
  <figure class="stack" :aria-label="`The string, group by group${simulated ? ', simulated' : ''}`">
    <div ref="box" class="box">
      <svg v-if="width > 0" :viewBox="`${cut} 0 ${whole - cut} ${total}`" :width="whole - cut" :height="total" role="group" aria-label="Stack figure">
        <defs>
          <pattern id="hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="6" height="6" class="hatch-ground" />
            <rect width="3" height="6" class="hatch-line" />
          </pattern>
        </defs>
        <text v-if="simulated" :x="plumbRight && many === 1 ? LEFT : whole - 4" :y="total - (sees ? 2 : 8)" :text-anchor="plumbRight && many === 1 ? 'start' : 'end'" class="simulated">simulated</text>
        <g class="axis" aria-hidden="true">
          <template v-for="v in ticks" :key="v">
            <line :x1="x(v)" :x2="x(v)" :y1="TOP - 10" :y2="total - BOTTOM + 8" />
            <text :x="x(v)" :y="TOP - 18" text-anchor="middle">{{ v.toFixed(1) }}</text>
          </template>
          <text :x="whole - 4" :y="TOP - 18" text-anchor="end" class="unit">mV</text>
        </g>

        <g aria-hidden="true">
          <rect v-if="window.rest_floor_v > axis.low" :x="x(axis.low)" :width="x(window.rest_floor_v) - x(axis.low)" :y="TOP - 6" :height="total - TOP - BOTTOM + 12" fill="url(#hatch)" class="floor" />
        </g>

        <g v-if="sees" class="ends" aria-hidden="true">
          <path :d="`M${x(window.tool_end_v)} ${total - 46}v12m0 -6H${Math.max(x(sees.low), x(window.tool_end_v) + 2)}`" class="tool" />
          <path :d="`M${x(window.full_v)} ${total - 46}v12m0 -6H${Math.min(x(sees.high), x(window.full_v) - 2)}`" class="charger" />
          <text :x="LEFT" :y="total - 17">tool {{ sees.tool }}</text>
          <text :x="whole - 4" :y="total - 17" text-anchor="end">charger {{ sees.charger }}</text>
        </g>
        <g v-if="plumb !== null" class="plumb" aria-hidden="true">
          <line :x1="x(plumb)" :x2="x(plumb)" :y1="TOP - 12" :y2="total - BOTTOM + 12" />
          <path :d="`M${x(plumb) - 5.5} ${total - BOTTOM + 10}h11l-2 9l-3.5 9l-3.5 -9z`" />
        </g>

        <g class="rail" aria-hidden="true">
          <template v-for="string in many" :key="string">
            <line :x1="RAIL" :x2="RAIL" :y1="tapY(string * each, string - 1)" :y2="tapY((string - 1) * each, string - 1)" />
            <text :x="RAIL - 14" :y="tapY(string * each, string - 1) - 12" text-anchor="end">+</text>
            <text :x="RAIL - 14" :y="tapY((string - 1) * each, string - 1) + 20" text-anchor="end">−</text>
            <text v-if="many > 1" :x="RAIL + 4" :y="tapY((string - 1) * each, string - 1) + 22" class="string">{{ names[string - 1] }}<tspan v-if="now?.string_v[string - 1] != null" dx="6">{{ volts(now.string_v[string - 1]!, 2) }} V</tspan></text>
          </template>
        </g>

        <g v-for="sum in assessed?.reconciled.sums ?? []" :key="`${sum.from_tap}-${sum.to_tap}`" class="sum" aria-hidden="true">
          <path v-if="sum.to_tap - sum.from_tap < each" :d="`M${LEFT - 8} ${tapY(sum.to_tap, stringOf(sum.to_tap)) + 6}h-5V${tapY(sum.from_tap, stringOf(sum.to_tap)) - 6}h5`" />
          <text v-if="sum.to_tap - sum.from_tap < each" :x="LEFT - 2" :y="(tapY(sum.to_tap, stringOf(sum.to_tap)) + tapY(sum.from_tap, stringOf(sum.to_tap))) / 2 + 5">{{ volts(sum.volts, digits) }} together</text>
        </g>

        <g
          v-for="nail in nails"
          :key="nail.key"
          class="nail"
          :class="{ lit: litNails.has(nail.key), read: readTaps.has(nail.key), floats: floating.has(nail.tap) && !nail.lowest, pickable }"
          @click="pickTap(nail, $event.shiftKey)"
        >
          <rect
            :x="0"
            :y="tapY(nail.tap, nail.string) - Math.min(step / 2, 14)"
            :width="RAIL + 12"
            :height="Math.min(step, 28)"
            class="touch"
            :tabindex="pickable ? 0 : undefined"
            :role="pickable ? 'button' : undefined"
            :aria-label="pickable ? nailSays(nail) : undefined"
            @keydown.enter.prevent="pickTap(nail, $event.shiftKey)"
          />
          <line :x1="RAIL" :x2="RAIL + (litNails.has(nail.key) ? 14 : 7)" :y1="tapY(nail.tap, nail.string)" :y2="tapY(nail.tap, nail.string)" />
          <circle :cx="RAIL" :cy="tapY(nail.tap, nail.string)" :r="litNails.has(nail.key) ? 6.5 : 4" />
          <text :x="RAIL - 12" :y="tapY(nail.tap, nail.string) + 4.5" text-anchor="end" aria-hidden="true">{{ litNails.has(nail.key) ? (nail.lowest && nail.string > 0 ? 'minus' : `tap ${nail.tap}`) : floating.has(nail.tap) && !nail.lowest ? 'floats' : nail.v === null ? '' : volts(nail.v, digits > 2 ? 2 : digits) }}</text>
        </g>

        <g
          v-for="group in groups"
          :key="group.group"
          class="row"
          :class="[group.state, { lit: litGroup === group.group }]"
          @mouseenter="told = group.group"
          @mouseleave="told = null"
          @click="pickable && emit('pick', { kind: 'group', group: group.group })"
        >
          <rect
            :x="RAIL + 14"
            :y="rowY(group.group) - Math.min(step / 2, 20)"
            :width="whole - RAIL - 14"
            :height="Math.min(step, 40)"
            class="touch"
            tabindex="0"
            role="button"
            :aria-label="label(group)"
            @focus="told = group.group"
            @blur="told = null"
            @keydown.enter.prevent="pickable && emit('pick', { kind: 'group', group: group.group })"
          />
          <text :x="NUMBER" :y="rowY(group.group) + 5" text-anchor="middle" class="number" aria-hidden="true">{{ group.group }}</text>
          <path v-if="was(group.group) !== null" :d="`M${x(was(group.group)!)} ${rowY(group.group) - 6}v12`" class="was" />
          <GroupBob v-if="held(group.group)?.volts == null" :state="group.state" :x="group.volts === null ? x(plumb ?? window.nominal_v) : x(group.volts)" :plumb-x="x(plumb ?? group.volts ?? window.nominal_v)" :y="rowY(group.group)" :whisker="group.sigma_v === null || group.volts === null ? 0 : x(group.volts + 2 * group.sigma_v) - x(group.volts)" />
          <circle v-if="changed(group.group)" :cx="NUMBER" :cy="rowY(group.group)" r="11" class="fresh"><title>{{ CELLS[changed(group.group)!] }}</title></circle>
          <path v-if="held(group.group)?.volts != null" :d="`M${x(held(group.group)!.volts!)} ${rowY(group.group) - 8}l7 8l-7 8l-7 -8z`" class="held" />
          <text v-if="condemned(group.group)?.placed && !GRAVE.includes(group.state)" :x="LEFT" :y="rowY(group.group) + 19" class="condemned" aria-hidden="true">✕ {{ why(group.group) }}</text>
          <text v-if="group.volts !== null" :x="whole - 4" :y="rowY(group.group) + 5" text-anchor="end" class="off" aria-hidden="true">{{ millivolts(group.off_plumb_v) }}</text>
        </g>
        <g v-for="r in rises" :key="`rise ${r.group}`" class="rise" :class="{ on: r.on }">
          <title>group {{ r.group }} {{ r.on ? 'charges' : 'is off' }}: {{ volts(r.volts, 3) }} V, to {{ volts(r.target, 3) }} V</title>
          <path :d="`M${r.from} ${r.y + 11}H${Math.max(r.to - 7, r.from)}`" />
          <path v-if="r.on" :d="`M${r.to - 8} ${r.y + 6}l8 5l-8 5z`" class="head" />
          <path :d="`M${r.end} ${r.y + 4}v14`" class="end" />
        </g>
      </svg>
    </div>
    <p v-if="somewhere" class="gone">✕ A cell is {{ somewhere }}; nobody has said in which group</p>
    <p v-for="of in now?.left_out ?? []" :key="of.was" class="gone">✕ Left out: group {{ of.was }}, as numbered when it came ({{ of.because.replaceAll('_', ' ') }})</p>
    <figcaption class="story" aria-live="polite">
      <template v-if="origin ?? story">{{ origin ?? story }}</template>
      <template v-else-if="plumb !== null"><TermWord of="plumb_line">Plumb line</TermWord> at {{ volts(plumb, digits) }} V: the median of the groups that are level.</template>
      <template v-else>{{ now?.groups.some((g) => g.volts !== null) ? 'Diamonds: read before the pack was changed, and not read again since.' : 'No group read yet.' }}</template>
    </figcaption>
  </figure>
</template>

<style scoped>
.ends path {
  fill: none;
  stroke: var(--petrol);
  stroke-width: 4;
}

.ends .tool {
  stroke: var(--copper);
  stroke-dasharray: 5 3;
}

.ends text {
  fill: var(--muted);
  font-family: var(--text);
  font-size: 13px;
}

.rise {
  fill: none;
  pointer-events: none;
  stroke: var(--petrol);
  stroke-dasharray: 2 3;
  stroke-width: 4;
}

.rise.on {
  stroke-dasharray: none;
}

.rise .head {
  fill: var(--petrol);
  stroke: none;
}

.rise .end {
  stroke: var(--ink);
  stroke-dasharray: none;
  stroke-width: 2;
}

.rail .string {
  fill: var(--muted);
  font-family: var(--text);
  font-size: 13px;
}

.fresh {
  fill: none;
  pointer-events: none;
  stroke: var(--petrol);
  stroke-width: 2;
}

.held {
  fill: var(--sheet);
  stroke: var(--muted);
  stroke-width: 2;
}

.condemned {
  fill: var(--hazard);
  font-family: var(--text);
  font-size: 13px;
  font-weight: 650;
  pointer-events: none;
}

.gone {
  border-left: 4px solid var(--hazard);
  font-size: 14px;
  margin: 4px 0 0;
  padding-left: 8px;
}

.simulated {
  fill: var(--copper);
  font-size: 14px;
  font-weight: 650;
}

.stack {
  display: grid;
  grid-auto-rows: auto;
  grid-template-rows: minmax(0, 1fr);
  height: 100%;
  margin: 0;
}

.box {
  min-height: 0;
  overflow: hidden auto;
}

svg {
  display: block;
  font-family: var(--mono);
  font-size: 14px;
}

text {
  fill: var(--ink);
}

.axis line {
  stroke: var(--rule-soft);
}

.axis text {
  fill: var(--muted);
  font-size: 13px;
}

.hatch-ground {
  fill: transparent;
}

.hatch-line {
  fill: var(--hazard-tint);
}

.plumb line {
  stroke: var(--ink);
  stroke-width: 1.6;
}

.plumb path {
  fill: var(--ink);
}

.rail line {
  stroke: var(--ink);
  stroke-width: 2;
}

.rail text {
  font-family: var(--text);
  font-size: 18px;
}

.nail line {
  stroke: var(--ink);
  stroke-width: 2;
}

.nail circle {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 2;
}

.nail.read circle {
  fill: var(--ink);
}

.nail text {
  fill: var(--muted);
  font-size: 13.5px;
}

.nail.lit line,
.nail.lit circle {
  fill: var(--copper);
  stroke: var(--copper);
  stroke-width: 3;
}

.nail.lit text {
  fill: var(--copper);
  font-size: 15px;
  font-weight: 700;
}

.nail.floats circle {
  fill: var(--sheet);
  stroke: var(--hazard);
  stroke-dasharray: 3 2;
}

.nail.floats text {
  fill: var(--hazard);
  font-weight: 700;
}

.nail.pickable,
.row {
  cursor: pointer;
}

.touch {
  fill: transparent;
}

.touch:focus-visible {
  outline: none;
  stroke: var(--copper);
  stroke-width: 2;
}

.row:hover .touch,
.row.lit .touch {
  fill: color-mix(in srgb, var(--copper-tint) 45%, transparent);
}

.number {
  fill: var(--muted);
}

.off {
  fill: var(--muted);
}

.low .off,
.high .off {
  fill: var(--copper);
  font-weight: 700;
}

.overcharged .off,
.run_flat .off,
.under_floor .off,
.reversed .off,
.dead .off,
.in_doubt .off {
  fill: var(--hazard);
  font-weight: 700;
}

.was {
  stroke: var(--muted);
  stroke-dasharray: 2 2;
  stroke-width: 2;
}

.sum path {
  fill: none;
  stroke: var(--muted);
  stroke-width: 1.5;
}

.sum text {
  fill: var(--muted);
  font-size: 13px;
}

.story {
  border-top: 1px solid var(--rule-soft);
  color: var(--muted);
  font-size: 14px;
  min-height: 72px;
  padding: 5px 16px 4px;
}
</style>
