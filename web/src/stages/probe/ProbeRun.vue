<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import { tapsOf } from '@/composables/points'
import { computed, onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { digitsOf, volts } from '@/composables/format'
import { between, useFigure } from '@/composables/useFigure'
import { vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'
import { askWork } from '@/bench/acts'
import EntryField from './EntryField.vue'
import PhotoPane from './PhotoPane.vue'
import RunTable from './RunTable.vue'
import { useLiveMeter } from './useLiveMeter'
import LadderFigure from '@/figures/LadderFigure.vue'
import { useProbeRun } from './useProbeRun'

/** A probe run: the point announced, the number typed, the readings below, the sum kept in sight. */
const props = defineProps<{ purpose: 'probe' | 'prove' | 'load' }>()

const job = useJob()
const figure = useFigure()
// The order and how the readings are shown are part of the address, so that a run goes on elsewhere as it is here.
const route = useRoute()
const router = useRouter()
const run = useProbeRun(job, props.purpose, route.query.order ? String(route.query.order) : null)
watch(run.scheme, (order) => void router.replace({ query: { ...route.query, order } }))
const VIEWS = { list: 'as a list', string: 'drawn on the string', photo: 'on the photo' }
type View = keyof typeof VIEWS
// What is read without opening is touched on the case, which the pattern's photo shows.
const outside = computed(() => run.scheme.value === 'outside' && (job.value.assessment.pattern?.sheet.photos.length ?? 0) > 0)
const view = computed<View>(() => (String(route.query.view ?? '') in VIEWS ? (String(route.query.view) as View) : outside.value ? 'photo' : 'list'))
const show = (next: View) => void router.replace({ query: { ...route.query, view: next === 'list' && !outside.value ? undefined : next } })
const showNext = () => show(view.value === 'list' ? 'string' : view.value === 'string' ? 'photo' : 'list')
const entry = useTemplateRef<{ focus: () => void }>('entry')

const series = computed(() => job.value.facts.intake.pack.series)
const strings = computed(() => job.value.facts.intake.pack.strings)
const lowest = (tap: number) => Math.floor((tap - 1) / (series.value / strings.value)) * (series.value / strings.value)
const live = useLiveMeter(run, () => job.value.facts.id)
const digits = computed(() => (run.assessed.value ? digitsOf(run.assessed.value.set.meter.resolution_v) : 2))
const solved = computed(() => run.assessed.value?.reconciled ?? null)
const known = computed(() => solved.value?.groups.filter((g) => g.determined).length ?? 0)
// Groups known only together count with their sum.
const sums = computed(() => (solved.value?.sums ?? []).filter((s) => s.to_tap - s.from_tap > 1))
// Strings side by side have the same sum, each of its own groups: what is told is their mean.
const sum = computed(() => ((solved.value?.groups ?? []).reduce((total, g) => total + (g.volts ?? 0), 0) + sums.value.reduce((total, s) => total + s.volts, 0)) / strings.value)
const covered = computed(() => known.value + sums.value.reduce((count, s) => count + s.to_tap - s.from_tap, 0) >= series.value)
const terminals = computed(() => run.assessed.value?.readings.filter((r) => r.kind === 'pack').at(-1)?.volts ?? null)
const terminalsAt = computed(() => (run.assessed.value?.readings ?? []).flatMap((r, i) => (r.kind === 'pack' ? [i] : [])))
const check = computed(() => solved.value?.sum_check ?? null)

const title = computed(() => {
  const words = run.current.value?.words
  const place = run.place.value === 'tab' ? ', on the cells’ own tabs' : ''
  return words ? words.charAt(0).toUpperCase() + words.slice(1) + place : 'Every point is read'
})
const under = computed(() => {
  const point = run.current.value?.point
  if (!point) return ''
  const taps = tapsOf(point)
  if (!taps) return 'red on the plus terminal, black on minus'
  return point.kind === 'tap' ? `red probe on tap ${taps[1]}, black stays on tap 0` : `black probe on tap ${taps[0]}, red on tap ${taps[1]}`
})
const expectation = computed(() => {
  const plumb = run.assessed.value?.verdict.plumb_v
  const point = run.current.value?.point
  if (plumb === null || plumb === undefined || !point) return 'nothing read yet'
  if (point.kind === 'pack' || point.kind === 'span') return 'the groups’ sum'
  return `a sibling reads ${volts(plumb, 2)} V`
})

watch(run.current, (current) => (figure.lit.value = current?.point ?? null), { immediate: true })
onMounted(() => (figure.pick.value = (point) => {
  void run.goTo(point)
  entry.value?.focus()
}))
onBeforeUnmount(() => {
  figure.pick.value = null
  figure.lit.value = null
})

const switchPlace = () => {
  run.place.value = run.place.value === 'tab' ? 'pin' : 'tab'
  entry.value?.focus()
}

/** Enter and the pedal: the typed number, else what the live meter shows. */
async function accept() {
  if (run.text.value || !(await live.force())) await run.accept()
}

useShortcuts([
  { key: 'Enter', does: 'accept the number and go to the next point' },
  { key: 'Backspace', does: 'on an empty field: step back' },
  { key: 'x', does: 'this point cannot be reached', run: () => void run.unreachable() },
  { key: 's', does: 'skip this point for now; the run comes back to it', run: run.skip },
  { key: 'r', does: 'read the last point again', run: run.readAgain },
  { key: 'p', does: 'another order: taps, groups, mixed, from outside, only what is needed', run: run.switchScheme },
  { key: 'd', does: 'the readings as a list, drawn on the string, or on the photo', run: showNext },
  { key: 't', does: 'the next readings are taken on the cells’ own tabs, or at the pins again', run: switchPlace },
  { key: 'l', does: 'live meter: off, or the next one there is', run: live.next },
])
</script>

<template>
  <section class="probe">
    <p class="label line"><slot name="line" :scheme="run.scheme.value" /></p>
    <h1 aria-live="polite">{{ title }}</h1>
    <p class="under muted">{{ under ? [under, run.current.value?.again || run.current.value?.why].filter(Boolean).join('; ') : 'Pick a tap or a row in the figure to read it again, or go on.' }}</p>
    <EntryField
      v-if="run.current.value"
      ref="entry"
      v-model="run.text.value"
      :point="run.current.value"
      :preview="run.preview.value"
      :digits="Math.min(digits, 2)"
      :expectation="expectation"
      :questioned="run.questioned.value?.why ?? null"
      :error="run.refusal.value?.message ?? null"
      :live="live.meter.value ? { volts: live.volts.value, share: live.share.value, says: live.meter.value.says, digits } : null"
      :meters="live.meters.value.length"
      :place="run.place.value"
      :tabs="run.assessed.value?.verdict.next_place === 'tab'"
      @live="live.next()"
      @draw="showNext()"
      @accept="accept()"
      @back="run.stepBack()"
      @unreachable="run.unreachable()"
      @skip="run.skip()"
      @again="run.readAgain()"
      @scheme="run.switchScheme()"
      @place="switchPlace()"
      @work="askWork()"
    />
    <p v-else-if="run.refusal.value" class="error" role="alert">{{ run.refusal.value.message }}</p>
    <div class="readings">
      <nav class="views" aria-label="How the readings are shown">
        <button v-for="(words, key) in VIEWS" :key="key" type="button" :aria-pressed="view === key" @click="show(key)">{{ words }}</button><kbd>d</kbd>
      </nav>
      <PhotoPane v-if="view === 'photo'" :point="run.current.value?.point ?? null" :series="series" :strings="strings" :outside="run.scheme.value === 'outside'" @pick="run.goTo(between(lowest($event), $event))" />
      <LadderFigure v-else-if="view === 'string' && run.assessed.value?.reading_ids.length" :assessed="run.assessed.value" :series="series" :strings="strings" :digits="Math.min(digits, 3)" @pick="run.goTo($event)" />
      <RunTable v-else-if="run.assessed.value?.reading_ids.length || run.points.value.some((p) => p.unreachable)" :assessed="run.assessed.value!" :readings="job.facts.readings ?? []" :digits="digits" :strings="strings" />
      <p v-else class="muted empty">Touch the point above and type what the meter shows; several numbers on one line fill several points.</p>
    </div>
    <dl class="sums">
      <div><dt>read so far</dt><dd class="figure">{{ known }} of {{ series }}</dd></div>
      <div v-from="{ what: 'Sum of groups', set: run.assessed.value, groups: 'all' }"><dt>sum of <TermWord of="group">groups</TermWord><template v-if="strings > 1"> a string</template></dt><dd class="figure">{{ known || sums.length ? volts(sum, 2) : '–' }} V</dd></div>
      <div v-from="{ what: 'Terminals', set: run.assessed.value, readings: terminalsAt }"><dt>at the terminals</dt><dd class="figure">{{ volts(terminals, 2) }} V</dd></div>
      <div v-if="check" v-from="{ what: 'Terminals less the sum', set: run.assessed.value, groups: 'all' }" :class="{ off: !check.agrees }">
        <dt>{{ check.agrees ? 'they agree within' : 'they differ by' }}</dt>
        <dd class="figure">{{ check.agrees ? `±${Math.round(check.limit_v * 1000)} mV` : `${volts(check.difference_v, 2)} V` }}</dd>
      </div>
      <div v-else-if="terminals !== null" v-from="{ what: 'Terminals less the groups', set: run.assessed.value, groups: 'all' }"><dt>{{ covered ? 'terminals − sum' : 'left to find' }}</dt><dd class="figure">{{ volts(terminals - sum, 2) }} V</dd></div>
    </dl>
  </section>
</template>

<style scoped>
.probe {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto auto auto auto auto auto minmax(80px, 1fr) auto;
  min-height: 100%;
}

.line {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  min-height: 22px;
}

.line :deep(.linklike) {
  margin-left: 0;
}

.under {
  font-size: 18px;
  margin: 2px 0 12px;
}

.readings {
  grid-row: 7;
  margin-top: 6px;
  min-height: 0;
}

.views {
  align-items: center;
  display: flex;
  gap: 16px;
  margin-bottom: 4px;
}

.views button {
  background: none;
  border: 0;
  border-bottom: 2px solid transparent;
  color: var(--petrol);
  cursor: pointer;
  font: inherit;
  font-weight: 650;
  min-height: 44px;
  padding: 0;
}

.views button[aria-pressed='true'] {
  border-bottom-color: var(--ink);
  color: var(--ink);
}

.empty {
  max-width: 46ch;
  padding-top: 10px;
}

.sums {
  background: var(--paper);
  border-top: 1px solid var(--ink);
  bottom: -24px;
  display: flex;
  gap: 14px 24px;
  grid-row: 8;
  justify-content: flex-start;
  margin: 12px 0 0;
  padding: 12px 0 24px;
  position: sticky;
  margin-bottom: -24px;
}

dt {
  color: var(--muted);
  font-size: 14px;
  white-space: nowrap;
}

dd {
  margin: 0;
}

.off dt,
.off dd {
  color: var(--hazard);
  font-weight: 700;
}

@media (max-width: 900px) {
  .sums {
    flex-wrap: wrap;
  }
}

@media (max-width: 1100px) {
  .sums {
    gap: 10px 18px;
  }

  .sums .figure {
    font-size: 19px;
  }
}
</style>
