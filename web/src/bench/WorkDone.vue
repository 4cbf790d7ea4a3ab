<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref, shallowRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import { toNext } from '@/composables/focus'
import { sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import { workAt, type WorkPlace } from './acts'
import BoardFields from './BoardFields.vue'
import FieldRow from './FieldRow.vue'
import PackChange from './PackChange.vue'
import TextField from '@/forms/TextField.vue'
import Choice from '@/forms/Choice.vue'

/** What was done to the pack: what, where, by whom. What it may have changed is asked for again. */
const job = useJob()
const settings = useSettings()
const { data: terms } = useTermsQuery()
const { act, busy, refusal } = useAct()
const series = computed(() => job.value.facts.intake.pack.series)

type Where = WorkPlace['kind']
const did = shallowRef('mended_wire')
const board = shallowRef<Schemas['Board'] | null>(null)
// New cells and a group left out make another pack of it, and are told in a form of their own.
const change = shallowRef<'cells' | 'out' | null>(null)
const where = shallowRef<Where>('tap')
const form = ref({ number: '', part: '', by: '', note: '', parts: '', minutes: '', photo: null as number | null })
const WHERE: Record<Where, string> = { tap: 'wire of a tap', group: 'a group', board: 'the board', terminals: 'terminals', part: 'another part' }

// What the readings have in doubt stands first: it is what was mended.
const doubted = computed<WorkPlace | null>(() => {
  const found = job.value.assessment.probe?.reconciled.findings.find((f) => f.kind === 'open_tap' || f.kind === 'swapped_taps')
  const tap = found && 'tap' in found ? found.tap : found && 'taps' in found ? found.taps?.[0] : null
  return tap == null ? null : { kind: 'tap', tap }
})
// Closed without being recorded: what was typed is there again, unless the form is opened for another place.
let held = false
watch(workAt, (open) => {
  if (!open) return
  refusal.value = null
  if (held && !open.place && !open.change) return
  held = false
  board.value = null
  change.value = open.change ?? null
  form.value = { number: '', part: '', by: settings.value.technician, note: '', parts: '', minutes: '', photo: null }
  const place = open.place ?? doubted.value
  if (!place) return
  where.value = place.kind
  if (place.kind === 'tap') form.value.number = String(place.tap)
  if (place.kind === 'group') form.value.number = String(place.group)
})

const place = computed<WorkPlace>(() => {
  if (where.value === 'tap') return { kind: 'tap', tap: sent(form.value.number) as number }
  if (where.value === 'group') return { kind: 'group', group: sent(form.value.number) as number }
  if (where.value === 'board') return { kind: 'board' }
  return where.value === 'part' ? { kind: 'part', part: form.value.part.trim() } : { kind: 'terminals' }
})

async function keep() {
  const { by, note, parts, minutes, photo } = form.value
  const body = { did: did.value as never, place: place.value, by: by.trim(), note, parts, minutes: sent(minutes, 'min'), photo, board: where.value === 'board' && did.value === 'replaced_part' ? board.value : null }
  const params = { path: { job_id: job.value.facts.id } }
  if (!(await act(() => settled(client.POST('/api/jobs/{job_id}/work', { params, body }))))) return
  if (!settings.value.technician) settings.value.technician = by.trim()
  held = false
  workAt.value = null
}
function leave() {
  if (workAt.value === null) return
  held = true
  workAt.value = null
}
</script>

<template>
  <ElDialog :model-value="workAt !== null" title="What was done" width="min(620px, 100vw)" top="6vh" append-to-body @update:model-value="leave" @closed="toNext()">
    <div class="chips" role="group" aria-label="Kind of work">
      <button type="button" class="chip" :aria-pressed="change === null" @click="change = null">work on a part</button>
      <button type="button" class="chip" :aria-pressed="change === 'cells'" @click="change = 'cells'">new cells are in</button>
      <button v-if="series > 1" type="button" class="chip" :aria-pressed="change === 'out'" @click="change = 'out'">a group is left out</button>
    </div>
    <PackChange v-if="change" :key="change" :what="change" :groups="workAt?.groups" class="work" @done="workAt = null" />
    <form v-else class="work" @submit.prevent="keep">
      <div class="chips" role="group" aria-label="What was done">
        <button v-for="w in terms?.works ?? []" :key="w.key" type="button" class="chip" :aria-pressed="did === w.key" @click="did = w.key">{{ w.name }}</button>
      </div>
      <Choice label="Where" :options="WHERE" :chosen="(key) => where === key" @choose="(key) => (where = key)" />
      <BoardFields v-if="where === 'board' && did === 'replaced_part'" v-model="board" />
      <div class="fields">
        <NumberField v-if="where === 'tap' || where === 'group'" v-model="form.number" :label="where === 'tap' ? `Tap, 0 to ${series}` : `Group, 1 to ${series}`" whole :error="refusal?.on('place')" autofocus />
        <TextField v-if="where === 'part'" v-model="form.part" label="Which part" :error="refusal?.on('place')" maxlength="60" placeholder="sensor plug" />
        <TextField v-model="form.by" label="By" :error="refusal?.on('by')" maxlength="60" />
        <NumberField v-model="form.minutes" label="Minutes at the bench" bare unit="min" :error="refusal?.on('minutes')" />
        <TextField v-model="form.parts" label="Parts put in" :error="refusal?.on('parts')" maxlength="200" />
        <TextField v-model="form.note" label="Note" :error="refusal?.on('note')" class="wide" maxlength="400" />
        <FieldRow v-if="job.assessment.photos.length" label="Photo that shows it" class="wide"><template #default="{ id }"><ElSelect :id="id" v-model="form.photo" clearable placeholder="none" aria-label="Photo that shows it"><ElOption v-for="(p, i) in job.assessment.photos" :key="p.photo.id" :value="p.photo.id" :label="p.photo.caption || `photo ${i + 1}`" /></ElSelect></template></FieldRow>
      </div>
      <p v-if="refusal && !['place', 'by', 'minutes', 'parts', 'note'].some((f) => refusal?.on(f))" class="error" role="alert">{{ refusal.message }}</p>
      <ElButton type="primary" size="large" native-type="submit" :loading="busy">Record the work</ElButton>
      <p class="muted">What was read there before stays on record; the same points are asked for again.</p>
    </form>
  </ElDialog>
</template>

<style scoped>
.work {
  display: grid;
  gap: 14px;
  margin-top: 14px;
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.fields {
  display: grid;
  gap: 12px;
  grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
}

.wide {
  grid-column: 1 / -1;
}
</style>
