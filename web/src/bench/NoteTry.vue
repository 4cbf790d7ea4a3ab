<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { toNext } from '@/composables/focus'
import { sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { begins, noteOrTry } from './acts'
import Caution from './Caution.vue'
import TextField from '@/forms/TextField.vue'

/** At one key: what was said or seen, in chips and then in words; at another what was tried, and what came of it. */
type Told = Schemas['NewNote']['evidence'][number]
const job = useJob()
const { act, busy, refusal } = useAct()
const params = computed(() => ({ path: { job_id: job.value.facts.id } }))

const chip = (words: string, of: unknown) => ({ words, key: JSON.stringify(of), of: of as Told })
const ON_CELLS = ['swollen', 'bulged', 'leak', 'dented', 'heat_marks', 'loose_joint', 'torn_tab']
const part = ref<number | null>(null)
const MOVES = Object.entries({ blink: 'the blink', sensor: 'the sensor', output: 'the output', group_v: 'a group' })
const series = job.value.facts.intake.pack.series
// Where a board draws its own supply is found with it out or on a test supply; all groups alike is an answer too.
const FEEDS = [[1], [1, 2], [1, 2, 3], Array.from({ length: series }, (_, k) => k + 1)].filter((groups, n) => groups.length < series || n === 3)
const NOTES = [
  { key: 'charger', label: 'The charger', chips: Object.entries({ refuses: 'refuses', full_at_once: 'says full at once', stops_early: 'stops early', fault_blink: 'blinks a fault', never_ends: 'never ends', no_reaction: 'does not react', normal: 'is normal' }).map(([says, words]) => chip(words, { kind: 'charger', says })) },
  { key: 'tool', label: 'The tool', chips: Object.entries({ dead: 'is dead', cuts_out_under_load: 'cuts out under load', short_run: 'runs shortly', gauge_jumps: 'gauge jumps', normal: 'is normal' }).map(([does, words]) => chip(words, { kind: 'tool', does })) },
  { key: 'blink', label: 'It blinks', chips: Object.entries({ temperature: 'temperature', cell: 'a cell', communication: 'no talk', unknown: 'something else' }).map(([means, words]) => chip(words, { kind: 'blink', means })) },
  { key: 'seen', label: 'Seen', chips: Object.entries({ swollen: 'swollen', bulged: 'bulged', leak: 'a leak', dented: 'dented', corrosion: 'corrosion', heat_marks: 'heat marks', burnt_part: 'a burnt part', missing_part: 'a part missing', broken_wire: 'a broken wire', loose_joint: 'a loose joint', torn_tab: 'a pouch’s aluminium tab torn off', opened_before: 'opened before', nothing: 'nothing odd' }).map(([what, words]) => chip(words, { kind: 'seen', what, at: { groups: [], taps: [] } })) },
  { key: 'history', label: 'It was', chips: Object.entries({ stored_flat: 'stored flat', stored_long: 'stored long', dropped: 'dropped', wet: 'wet', crash: 'in a crash', heavy_use: 'used hard' }).map(([what, words]) => chip(words, { kind: 'history', what })) },
  { key: 'board_feeds', label: 'The board feeds itself from', chips: FEEDS.map((groups) => chip(groups.length === series ? 'all groups alike' : `group ${groups.join(', ')}`, { kind: 'board_feeds', groups })) },
  { key: 'moving', label: 'Moving it changes', chips: MOVES.map(([what, words]) => chip(words, { kind: 'moving_changes', what, changes: true })) },
  { key: 'moving', label: 'Moving it does not change', chips: MOVES.map(([what, words]) => chip(words, { kind: 'moving_changes', what, changes: false })) },
]
const TRIES = {
  action: { cleaned_connector: 'cleaned a connector', reseated: 'plugged in anew', resoldered: 'soldered anew', replaced_part: 'replaced a part', charged_group: 'charged a group', woke: 'woke the board' },
  swap: { board: 'another board', pack: 'another pack', charger: 'another charger', tool: 'another tool', harness: 'another harness' },
} as const
const RESULTS = { fault_stays: 'the fault stays', fault_goes: 'the fault goes', comes_back: 'it goes and comes back', another_fault: 'another fault' } as const
const REVISION = { true: 'same revision', false: 'another revision', null: 'revision not known' } as const

// What the pack's own chip says, each answered or left out; they go together as one reading of it.
const CHIP = [
  { key: 'permanent_failure', yes: 'flags a permanent failure', no: 'flags no failure' },
  { key: 'charge_switch', yes: 'charge switch on', no: 'charge switch off' },
  { key: 'discharge_switch', yes: 'discharge switch on', no: 'discharge switch off' },
  { key: 'answers_unpowered', yes: 'answers by itself', no: 'answers only when fed' },
] as const
const registers = ref<Record<string, boolean>>({})
// What stands at the board's own points, V.
const RAILS = { board_supply: "The board's own supply, V", gate: 'Gate to source of the switch, V' } as const
const rails = ref<Partial<Record<keyof typeof RAILS, string>>>({})
const says = (key: string, value: boolean) => (registers.value = registers.value[key] === value ? Object.fromEntries(Object.entries(registers.value).filter(([k]) => k !== key)) : { ...registers.value, [key]: value })

const { data: references } = useQuery({ queryKey: ['references'], queryFn: () => settled(client.GET('/api/references')) })
const { data: blinks } = useQuery({ queryKey: ['blinks'], queryFn: () => settled(client.GET('/api/blinks')) })
const parts = computed(() => (references.value ?? []).filter((r) => r.what === tried.value.what))
// The pattern's own table first: what a code means hangs on the board's revision.
const codes = computed(() => [
  ...(job.value.assessment.pattern?.sheet.codes ?? []).map((c) => ({ id: `${c.by} ${c.shows} ${c.revision}`, shows: c.revision ? `${c.shows}, revision ${c.revision}` : c.shows, means: c.means, says: c.says })),
  ...(blinks.value ?? []).filter((b) => !b.pack || job.value.facts.intake.pack_name.toLowerCase().includes(b.pack.toLowerCase())).map((b) => ({ id: String(b.id), shows: b.shows, means: b.means, says: '' })),
])
const DAY_MS = 86_400_000
function usePart(of: Schemas['ReferencePart']) {
  part.value = of.id
  tried.value.days = of.proved_at && of.sound && !of.due ? String(Math.max(Math.floor((Date.now() - Date.parse(of.proved_at)) / DAY_MS), 0)) : ''
  text.value = [of.name, of.revision && `revision ${of.revision}`].filter(Boolean).join(', ')
}
function useCode(code: { shows: string; means: Schemas['BlinkFact']['means'] }) {
  const of: Told = { kind: 'blink', means: code.means }
  chosen.value.set(JSON.stringify(of), of)
  if (!text.value.includes(code.shows)) text.value = [text.value, code.shows].filter(Boolean).join('; ')
}
const about = computed(() => begins.value.about)
// A test that was asked for shows its own chips; the rest is one press away.
const more = ref(false)
const groups = computed(() => (about.value && !more.value ? NOTES.filter((n) => n.key === about.value) : NOTES))

const chosen = ref(new Map<string, Told>())
const text = ref('')
const tried = ref<{ kind: 'action' | 'swap'; what: string; result: keyof typeof RESULTS | null; revision: keyof typeof REVISION; days: string }>({ kind: 'action', what: '', result: null, revision: 'null', days: '' })
// Which revision the pack's own board is, and with which the pattern says it may be swapped: a part of another one is then known as such.
const boards = computed(() => job.value.assessment.pattern?.sheet.boards ?? [])
const ownBoard = ref<string | null>(null)
watch([ownBoard, part, () => tried.value.what], () => {
  const own = boards.value.find((b) => b.revision === ownBoard.value)
  const put = parts.value.find((p) => p.id === part.value)
  if (tried.value.what !== 'board' || !own || !put?.revision) return
  tried.value.revision = put.revision === own.revision || own.swaps_with.includes(put.revision) ? 'true' : 'false'
})
// Closed without being recorded: what was chosen and typed is there again, unless the form is opened for a test.
let held: 'note' | 'try' | null = null
watch(noteOrTry, (open) => {
  if (!open) return
  refusal.value = null
  if (held === open && !Object.keys(begins.value).length) return
  held = null
  chosen.value = new Map()
  text.value = ''
  registers.value = {}
  at.value = []
  part.value = null
  supply.value = false
  more.value = false
  rails.value = {}
  const { kind = 'action', what = '' } = begins.value
  tried.value = { kind, what, result: null, revision: 'null', days: '' }
})

function toggle(key: string, of: Told) {
  if (!chosen.value.delete(key)) chosen.value.set(key, of)
}
function pick(kind: 'action' | 'swap', what: string) {
  part.value = null
  tried.value = { ...tried.value, kind, what }
}

const evidence = computed(() => {
  const { kind, what, result, revision, days } = tried.value
  if (kind === 'action') return { kind, did: what, result, at: { groups: [], taps: [] } }
  return { kind, put: what, result, reference: { same_revision: JSON.parse(revision) as boolean | null, proved_days_ago: sent(days, 'days') } }
})
// Where something was seen on cells is asked: only those are barred.
const at = ref<number[]>([])
const placed = computed(() => [...chosen.value.values()].some((of) => of.kind === 'seen' && ON_CELLS.includes(of.what)))
const inGroup = (group: number) => (at.value = at.value.includes(group) ? at.value.filter((g) => g !== group) : [...at.value, group])
const supply = ref(false)
const onBoard = computed(() => [...chosen.value.values()].some((of) => of.kind === 'seen' && ['missing_part', 'burnt_part'].includes(of.what)))
function where(of: Told): Told {
  if (of.kind !== 'seen') return of
  if (ON_CELLS.includes(of.what)) return { ...of, at: { groups: [...at.value].sort((a, b) => a - b), taps: [] } }
  return supply.value && ['missing_part', 'burnt_part'].includes(of.what) ? { ...of, at: { groups: [], taps: [], rail: 'board_supply' } } : of
}
const noted = computed<Told[]>(() => [
  ...[...chosen.value.values()].map(where),
  ...(Object.keys(registers.value).length ? [{ kind: 'registers', ...registers.value } as Told] : []),
  ...Object.entries(rails.value).flatMap(([rail, typed]) => (typed.trim() ? [{ kind: 'rail_v', rail, volts: sent(typed, 'V') as number } as Told] : [])),
])
const whole = computed(() => (noteOrTry.value === 'note' ? noted.value.length > 0 || text.value.trim() !== '' : tried.value.what !== '' && tried.value.result !== null))

const form = useTemplateRef('form')
/** Opened to type one figure: the hand types it at once. */
function opened() {
  if (begins.value.rail) form.value?.querySelector<HTMLInputElement>(`.rail.${begins.value.rail} input`)?.focus()
}
function closed() {
  begins.value = {}
  void toNext()
}
async function keep() {
  if (!whole.value) return
  const done =
    noteOrTry.value === 'note'
      ? await act(() => settled(client.POST('/api/jobs/{job_id}/notes', { params: params.value, body: { evidence: noted.value, text: text.value } })))
      : await act(() => settled(client.POST('/api/jobs/{job_id}/tries', { params: params.value, body: { evidence: evidence.value as Schemas['NewTry']['evidence'], text: text.value, part: tried.value.kind === 'swap' ? part.value : null } })))
  if (!done) return
  held = null
  noteOrTry.value = null
}
function leave() {
  if (noteOrTry.value === null) return
  held = Object.keys(begins.value).length ? null : noteOrTry.value
  noteOrTry.value = null
}
</script>

<template>
  <ElDialog :model-value="noteOrTry !== null" :title="noteOrTry === 'try' ? 'What was tried, and what came of it' : (begins.says ?? 'Said or seen')" width="min(680px, 100vw)" top="4vh" append-to-body @update:model-value="leave" @opened="opened" @closed="closed">
    <form ref="form" class="note" @submit.prevent="keep">
      <template v-if="noteOrTry === 'note'">
        <div v-for="group in groups" :key="group.label" class="chips" role="group" :aria-label="group.label">
          <span class="label">{{ group.label }}</span>
          <button v-for="c in group.chips" :key="c.key" type="button" class="chip" :aria-pressed="chosen.has(c.key)" @click="toggle(c.key, c.of)">{{ c.words }}</button>
          <button v-for="code in group.key === 'blink' ? codes : []" :key="code.id" type="button" class="chip code" @click="useCode(code)">{{ code.shows }}</button>
        </div>
        <div v-if="placed && job.now.series > 1" class="chips" role="group" aria-label="On which group">
          <span class="label">On which group</span>
          <button v-for="g in job.now.series" :key="g" type="button" class="chip" :aria-pressed="at.includes(g)" @click="inGroup(g)">{{ g }}</button>
          <span v-if="!at.length" class="muted">Without a group named, nothing of this pack is charged.</span>
        </div>
        <div v-if="onBoard" class="chips"><button type="button" class="chip" :aria-pressed="supply" @click="supply = !supply">beside the board's own supply</button></div>
        <div v-if="!about || about === 'chip' || more" class="chips" role="group" aria-label="Its chip">
          <span class="label">Its chip</span>
          <template v-for="c in CHIP" :key="c.key"><button type="button" class="chip" :aria-pressed="registers[c.key] === true" @click="says(c.key, true)">{{ c.yes }}</button><button type="button" class="chip" :aria-pressed="registers[c.key] === false" @click="says(c.key, false)">{{ c.no }}</button></template>
          <NumberField v-for="(label, key) in RAILS" :key="key" v-model="rails[key]" :label="label" bare unit="V" :error="refusal?.on('evidence')" :class="['rail', key]" placeholder="not read" />
          <Caution v-if="about === 'chip'" title="Live points on a bare board" class="whole">The gate lies beside its source: a slip of the tip across both turns a switch on for good. One tip sleeved to its last 2 mm. It counts for the switch at which the voltage is lost.</Caution>
        </div>
        <button v-if="about && !more" type="button" class="linklike" @click="more = true">something else as well</button>
      </template>
      <template v-else>
        <div v-for="(kinds, kind) in TRIES" :key="kind" class="chips" role="group" :aria-label="kind === 'action' ? 'Done' : 'Put in'">
          <span class="label">{{ kind === 'action' ? 'Done' : 'Put in' }}</span>
          <button v-for="(words, what) in kinds" :key="what" type="button" class="chip" :aria-pressed="tried.kind === kind && tried.what === what" @click="pick(kind, what)">{{ words }}</button>
        </div>
        <div v-if="tried.kind === 'swap' && tried.what === 'board' && boards.length" class="chips" role="group" aria-label="Its revision by the pattern">
          <button v-for="b in boards" :key="`${b.board} ${b.revision}`" type="button" class="chip" :aria-pressed="ownBoard === b.revision" @click="ownBoard = ownBoard === b.revision ? null : b.revision">this pack has {{ b.revision ? `revision ${b.revision}` : b.board }}<template v-if="b.told_by">: {{ b.told_by }}</template></button>
        </div>
        <div v-if="tried.kind === 'swap' && tried.what" class="chips" role="group" aria-label="The reference part">
          <template v-if="parts.length"><span class="label">Which one</span><button v-for="of in parts" :key="of.id" type="button" class="chip" :disabled="!of.sound" :aria-pressed="part === of.id" @click="usePart(of)">{{ of.name }}<template v-if="!of.sound"> (found at fault)</template><template v-else-if="of.due"> (prove it again: {{ of.due }})</template></button></template>
          <span class="label">It is of</span>
          <button v-for="(words, key) in REVISION" :key="key" type="button" class="chip" :aria-pressed="tried.revision === key" @click="tried.revision = key">{{ words }}</button>
          <NumberField v-model="tried.days" label="Proved so many days ago" bare unit="days" :error="refusal?.on('evidence')" placeholder="not known" />
        </div>
        <div class="chips" role="group" aria-label="And then">
          <span class="label">And then</span>
          <button v-for="(words, key) in RESULTS" :key="key" type="button" class="chip" :aria-pressed="tried.result === key" @click="tried.result = key">{{ words }}</button>
        </div>
      </template>
      <TextField v-model="text" label="In words" maxlength="400" />
      <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
      <ElButton type="primary" size="large" native-type="submit" :disabled="!whole" :loading="busy">{{ noteOrTry === 'try' ? 'Record the try' : 'Record the note' }}</ElButton>
    </form>
  </ElDialog>
</template>

<style scoped>
.note {
  display: grid;
  gap: 10px;
}

.note > .linklike {
  justify-self: start;
  margin-left: 0;
}

.chips .label,
.chips .whole {
  flex-basis: 100%;
}

.code {
  border-style: dashed;
}

.rail {
  flex: 0 1 220px;
}
</style>
