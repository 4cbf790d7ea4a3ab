<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { toNext } from '@/composables/focus'
import { parseNumber } from '@/composables/parseVolts'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { noteOrTry } from './acts'
import FieldRow from './FieldRow.vue'

/** At one key: what was said or seen, in chips and then in words; at another what was tried, and what came of it. */
type Told = Schemas['NewNote']['evidence'][number]
const job = useJob()
const { act, busy, refusal } = useAct()
const params = computed(() => ({ path: { job_id: job.value.facts.id } }))

const chip = (words: string, of: unknown) => ({ words, key: JSON.stringify(of), of: of as Told })
const NOTES = [
  { label: 'The charger', chips: Object.entries({ refuses: 'refuses', full_at_once: 'says full at once', stops_early: 'stops early', fault_blink: 'blinks a fault', never_ends: 'never ends', no_reaction: 'does not react', normal: 'is normal' }).map(([says, words]) => chip(words, { kind: 'charger', says })) },
  { label: 'The tool', chips: Object.entries({ dead: 'is dead', cuts_out_under_load: 'cuts out under load', short_run: 'runs shortly', gauge_jumps: 'gauge jumps', normal: 'is normal' }).map(([does, words]) => chip(words, { kind: 'tool', does })) },
  { label: 'It blinks', chips: Object.entries({ temperature: 'temperature', cell: 'a cell', communication: 'no talk', unknown: 'something else' }).map(([means, words]) => chip(words, { kind: 'blink', means })) },
  { label: 'Seen', chips: Object.entries({ swollen: 'swollen', bulged: 'bulged', leak: 'a leak', corrosion: 'corrosion', heat_marks: 'heat marks', burnt_part: 'a burnt part', missing_part: 'a part missing', broken_wire: 'a broken wire', loose_joint: 'a loose joint', opened_before: 'opened before', nothing: 'nothing odd' }).map(([what, words]) => chip(words, { kind: 'seen', what, at: { groups: [], taps: [] } })) },
  { label: 'It was', chips: Object.entries({ stored_flat: 'stored flat', stored_long: 'stored long', dropped: 'dropped', wet: 'wet', crash: 'in a crash', heavy_use: 'used hard' }).map(([what, words]) => chip(words, { kind: 'history', what })) },
  { label: 'Moving it changes', chips: Object.entries({ blink: 'the blink', sensor: 'the sensor', output: 'the output', group_v: 'a group' }).map(([what, words]) => chip(words, { kind: 'moving_changes', what, changes: true })) },
]
const TRIES = {
  action: { cleaned_connector: 'cleaned a connector', reseated: 'plugged in anew', resoldered: 'soldered anew', replaced_part: 'replaced a part', charged_group: 'charged a group', woke: 'woke the board' },
  swap: { board: 'another board', pack: 'another pack', charger: 'another charger', tool: 'another tool', harness: 'another harness' },
} as const
const RESULTS = { fault_stays: 'the fault stays', fault_goes: 'the fault goes', comes_back: 'it goes and comes back', another_fault: 'another fault' } as const
const REVISION = { true: 'same revision', false: 'another revision', null: 'revision not known' } as const

const chosen = ref(new Map<string, Told>())
const text = ref('')
const tried = ref<{ kind: 'action' | 'swap'; what: string; result: keyof typeof RESULTS | null; revision: keyof typeof REVISION; days: string }>({ kind: 'action', what: '', result: null, revision: 'null', days: '' })
watch(noteOrTry, (open) => {
  if (!open) return
  refusal.value = null
  chosen.value = new Map()
  text.value = ''
  tried.value = { kind: 'action', what: '', result: null, revision: 'null', days: '' }
})

function toggle(key: string, of: Told) {
  if (!chosen.value.delete(key)) chosen.value.set(key, of)
}
const pick = (kind: 'action' | 'swap', what: string) => (tried.value = { ...tried.value, kind, what })

const evidence = computed(() => {
  const { kind, what, result, revision, days } = tried.value
  if (kind === 'action') return { kind, did: what, result, at: { groups: [], taps: [] } }
  return { kind, put: what, result, reference: { same_revision: JSON.parse(revision) as boolean | null, proved_days_ago: days.trim() ? ((parseNumber(days) ?? days) as number) : null } }
})
const whole = computed(() => (noteOrTry.value === 'note' ? chosen.value.size > 0 || text.value.trim() !== '' : tried.value.what !== '' && tried.value.result !== null))

async function keep() {
  if (!whole.value) return
  const done =
    noteOrTry.value === 'note'
      ? await act(() => settled(client.POST('/api/jobs/{job_id}/notes', { params: params.value, body: { evidence: [...chosen.value.values()], text: text.value } })))
      : await act(() => settled(client.POST('/api/jobs/{job_id}/tries', { params: params.value, body: { evidence: evidence.value as Schemas['NewTry']['evidence'], text: text.value } })))
  if (done) noteOrTry.value = null
}
</script>

<template>
  <ElDialog :model-value="noteOrTry !== null" :title="noteOrTry === 'try' ? 'What was tried, and then' : 'Said or seen'" width="min(680px, 100vw)" top="4vh" append-to-body @update:model-value="noteOrTry = null" @closed="toNext()">
    <form class="note" @submit.prevent="keep">
      <template v-if="noteOrTry === 'note'">
        <div v-for="group in NOTES" :key="group.label" class="chips" role="group" :aria-label="group.label">
          <span class="label">{{ group.label }}</span>
          <button v-for="c in group.chips" :key="c.key" type="button" class="chip" :aria-pressed="chosen.has(c.key)" @click="toggle(c.key, c.of)">{{ c.words }}</button>
        </div>
      </template>
      <template v-else>
        <div v-for="(kinds, kind) in TRIES" :key="kind" class="chips" role="group" :aria-label="kind === 'action' ? 'Done' : 'Put in'">
          <span class="label">{{ kind === 'action' ? 'Done' : 'Put in' }}</span>
          <button v-for="(words, what) in kinds" :key="what" type="button" class="chip" :aria-pressed="tried.kind === kind && tried.what === what" @click="pick(kind, what)">{{ words }}</button>
        </div>
        <div v-if="tried.kind === 'swap' && tried.what" class="chips" role="group" aria-label="The reference part">
          <span class="label">It is of</span>
          <button v-for="(words, key) in REVISION" :key="key" type="button" class="chip" :aria-pressed="tried.revision === key" @click="tried.revision = key">{{ words }}</button>
          <FieldRow label="Proved so many days ago" :error="refusal?.on('evidence')"><template #default="{ id }"><ElInput :id="id" v-model="tried.days" inputmode="decimal" placeholder="not known" /></template></FieldRow>
        </div>
        <div class="chips" role="group" aria-label="And then">
          <span class="label">And then</span>
          <button v-for="(words, key) in RESULTS" :key="key" type="button" class="chip" :aria-pressed="tried.result === key" @click="tried.result = key">{{ words }}</button>
        </div>
      </template>
      <FieldRow label="In words"><template #default="{ id }"><ElInput :id="id" v-model="text" maxlength="400" /></template></FieldRow>
      <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
      <ElButton type="primary" size="large" native-type="submit" :disabled="!whole" :loading="busy">Keep it</ElButton>
    </form>
  </ElDialog>
</template>

<style scoped>
.note {
  display: grid;
  gap: 10px;
}

.chips {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.chips .label {
  flex-basis: 100%;
}
</style>
