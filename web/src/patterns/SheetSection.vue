<script setup lang="ts">
import { computed, ref } from 'vue'
import Caution from '@/bench/Caution.vue'
import LineForm from './LineForm.vue'
import { CARRIES, FORMS, HAS, keyOf, MEANS, NORMALS, type Section, SOURCES, type Statement, TOUCHES } from './sections'
import type { Sheet } from './usePatterns'

/** A section of a sheet: its lines as a hand reads them, and while the sheet is worked on, each to be changed, taken off, moved, or added. */
const props = defineProps<{ section: Section; sheet: Sheet; working: boolean; causes: Record<string, string> }>()
const emit = defineEmits<{ lines: [lines: Statement[]]; photo: [name: string]; held: [line: string, held: boolean] }>()
type Pin = Sheet['plugs'][number]['pins'][number]
const form = computed(() => FORMS[props.section])
const lines = computed(() => props.sheet[props.section] as Statement[])
const editing = ref<number | null>(null)
const adding = ref(false)
const doubled = ref<string | null>(null)
const ordered = computed(() => props.section === 'opening' || props.section === 'closing')

// Which fields a line has its section tells; here they are only shown.
// eslint-disable-next-line @typescript-eslint/no-explicit-any
const fields = (line: Statement) => line as Record<string, any>
const joined = (...parts: unknown[]) => parts.filter((part) => part !== '' && part !== null && part !== undefined).join(', ')
const number = (value: unknown) => (typeof value === 'number' ? String(Number(value.toPrecision(5))) : '')
/** What leads a line, and what stands behind it. */
function leads(line: Statement): string {
  const l = fields(line)
  switch (props.section) {
    case 'contacts': return l.contact!
    case 'plugs': return l.plug!
    case 'boards': return joined(l.board, l.revision && `revision ${l.revision}`)
    case 'codes': return l.shows!
    case 'normals': return NORMALS[l.reads as keyof typeof NORMALS].name
    case 'faults': return props.causes[l.cause!] ?? l.cause!
    case 'cells': return l.cell!
    case 'parts': return (l.count as number) > 1 ? `${l.count} × ${l.part}` : l.part!
    default: return (l.does ?? l.says)!
  }
}
function follows(line: Statement): string {
  const l = fields(line)
  const unit = l.reads ? NORMALS[l.reads as keyof typeof NORMALS].unit : undefined
  switch (props.section) {
    case 'contacts': return joined(l.touches === 'tap' ? `tap ${l.tap}` : l.touches === 'other' ? '' : (TOUCHES as Record<string, string>)[l.touches!], l.volts !== null && `reads ${number(l.volts)} V`, l.ohm !== null && `${number(l.ohm)} Ω in a room`, l.says).replace(/false(, )?/g, '').replace(/, $/, '')
    case 'plugs': return (CARRIES as Record<string, string>)[l.carries!]!
    case 'boards': return joined(l.told_by, (l.has as string[]).length ? `protects against ${(l.has as string[]).map((h) => (HAS as Record<string, string>)[h]).join(', ')}` : '', (l.swaps_with as string[]).length ? `swaps with ${(l.swaps_with as string[]).join(', ')}` : '', l.says)
    case 'codes': return joined(l.says || (MEANS as Record<string, string>)[l.means!], l.revision && `revision ${l.revision}`)
    case 'normals': return joined(`${number(l.value)} ${unit}`, l.low !== null && l.high !== null ? `${number(l.low)} to ${number(l.high)}` : '', l.at_c !== null ? `at ${number(l.at_c)} °C` : '')
    case 'quirks': return (l.feeds_board as number[]).length ? `its board is fed by group${(l.feeds_board as number[]).length > 1 ? 's' : ''} ${(l.feeds_board as number[]).join(', ')}` : ''
    case 'faults': return joined(`told of ${l.seen} ${l.seen === 1 ? 'pack' : 'packs'}`, l.minutes && `about ${number(l.minutes)} min`, l.says)
    case 'cells': return l.size!
    case 'parts': return l.says!
    default: return l.tool ?? ''
  }
}
// What somebody told is the usual case, and is said by saying nothing.
const source = (line: Statement) => joined(line.source === 'told' ? '' : line.source === 'job' && line.origin ? '' : SOURCES[line.source], line.origin)
const counts = (line: Statement) => joined(line.confirmed ? `held ${line.confirmed} ×` : '', line.contradicted ? `did not hold ${line.contradicted} ×` : '')

function keep(line: Statement, at: number | null) {
  const key = keyOf(props.section, line)
  doubled.value = lines.value.some((l, i) => i !== at && keyOf(props.section, l) === key) ? 'There is such a line already; change that one, or tell this one apart.' : null
  if (doubled.value) return
  emit('lines', at === null ? [...lines.value, line] : lines.value.map((l, i) => (i === at ? line : l)))
  editing.value = null
  adding.value = false
}
function move(at: number, by: number) {
  const next = [...lines.value]
  const [line] = next.splice(at, 1)
  next.splice(at + by, 0, line!)
  emit('lines', next)
}
</script>

<template>
  <section v-if="lines.length || working" class="section" :aria-label="form.name">
    <h2>{{ form.name }}</h2>
    <p v-if="!lines.length" class="muted">{{ form.teaches }}</p>
    <component :is="ordered ? 'ol' : 'ul'" :class="{ ordered }">
      <li v-for="(line, i) in lines" :key="keyOf(section, line)">
        <LineForm v-if="editing === i" :section="section" :line="line" :sheet="sheet" @kept="keep($event, i)" @left="editing = null" />
        <template v-else>
          <div class="line">
            <strong>{{ leads(line) }}</strong>
            <span>{{ follows(line) }}</span>
            <button v-if="fields(line).photo && section !== 'photos'" type="button" class="linklike see noprint" @click="emit('photo', fields(line).photo!)">see {{ fields(line).photo }}</button>
            <span class="from muted">{{ joined(source(line), counts(line)) }}</span>
          </div>
          <Caution v-if="fields(line).caution" :title="`Caution. ${fields(line).caution}`" />
          <ul v-if="section === 'plugs' && (fields(line).pins as Pin[]).length" class="pins" :aria-label="`pins of ${leads(line)}`">
            <li v-for="p in (fields(line).pins as Pin[])" :key="p.pin"><span class="mono">{{ p.pin }}</span><span>{{ p.wire || '–' }}</span><span class="mono">{{ p.tap !== null && p.tap !== undefined ? `tap ${p.tap}` : p.sensor || '–' }}</span><span v-if="typeof p.volts === 'number'" class="mono">{{ p.volts }} V</span></li>
          </ul>
          <div v-if="working" class="acts">
            <button type="button" class="linklike first" @click="editing = i">change</button>
            <button type="button" class="linklike" @click="emit('lines', lines.filter((_, at) => at !== i))">take off</button>
            <button v-if="ordered && i > 0" type="button" class="linklike" @click="move(i, -1)">earlier</button>
            <button v-if="ordered && i < lines.length - 1" type="button" class="linklike" @click="move(i, 1)">later</button>
          </div>
          <div v-else-if="section !== 'faults'" class="acts quiet noprint">
            <button type="button" class="linklike first" @click="emit('held', `${section}/${keyOf(section, line)}`, true)">it held</button>
            <button type="button" class="linklike" @click="emit('held', `${section}/${keyOf(section, line)}`, false)">it did not</button>
          </div>
        </template>
      </li>
    </component>
    <p v-if="doubled" class="error" role="alert">{{ doubled }}</p>
    <LineForm v-if="working && adding" :section="section" :line="null" :sheet="sheet" @kept="keep($event, null)" @left="adding = false" />
    <p v-else-if="working && section !== 'photos'"><button type="button" class="linklike first" @click="adding = true">{{ form.adds.toLowerCase() }}</button></p>
    <slot />
  </section>
</template>

<style scoped>
.section {
  border-top: 1px solid var(--ink);
  display: grid;
  gap: 4px;
  padding-top: 10px;
}

ul,
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}

ol.ordered {
  counter-reset: step;
}

ol.ordered > li {
  counter-increment: step;
  padding-left: 38px;
  position: relative;
}

ol.ordered > li::before {
  color: var(--copper);
  content: counter(step);
  font-family: var(--mono);
  font-size: 22px;
  left: 4px;
  position: absolute;
  top: 3px;
}

li {
  border-bottom: 1px solid var(--rule);
  padding: 7px 0;
}

li:last-child {
  border-bottom: 0;
}

.line {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}

.from {
  flex: 1 1 auto;
  font-size: 14px;
  text-align: right;
}

.first {
  margin-left: 0;
}

.see {
  margin: -11px 0;
}

/* Pins in their order, as many in a row as there is room for. */
.pins {
  display: flex;
  flex-wrap: wrap;
  margin-top: 6px;
}

.pins li {
  border: 1px solid var(--rule);
  display: grid;
  font-size: 14px;
  justify-items: center;
  margin: 0 -1px -1px 0;
  min-width: 62px;
  padding: 2px 8px;
}

.pins li > :first-child {
  color: var(--muted);
}

/* Said of a line while the hand is at it; the sheet itself stays clean. */
.quiet {
  height: 0;
  opacity: 0;
  overflow: hidden;
}

li:hover .quiet,
li:focus-within .quiet {
  height: auto;
  opacity: 1;
}

@media (hover: none) {
  .quiet {
    height: auto;
    opacity: 1;
  }
}
</style>
