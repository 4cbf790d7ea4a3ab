<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter, RouterLink } from 'vue-router'
import { useQuery } from '@tanstack/vue-query'
import { useStorage } from '@vueuse/core'
import { client, Refusal, settled } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import OpenFrame from '@/bench/OpenFrame.vue'
import { day, jobNumber } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useSettings } from '@/composables/useSettings'
import { useShortcuts } from '@/composables/useShortcuts'
import TextField from '@/forms/TextField.vue'
import { following } from '@/forms/following'
import { stagePath } from '@/router'
import CompareChoice from './CompareChoice.vue'
import FaultBars from './FaultBars.vue'
import SheetHead from './SheetHead.vue'
import SheetPhotos from './SheetPhotos.vue'
import SheetSection from './SheetSection.vue'
import StringSketch from './StringSketch.vue'
import { type Section, type Statement } from './sections'
import { buildOf, keepPattern, type Sheet, usePatternQuery, wholeAh } from './usePatterns'

/** The service sheet of a pack model: what is known of it, worked on in one go and signed as a revision. */
const props = defineProps<{ id: number }>()
const router = useRouter()
const id = computed(() => props.id)
const settings = useSettings()
const { data: terms } = useTermsQuery()
const { data: pattern, error } = usePatternQuery(id)
const { data: jobs } = useQuery({ queryKey: computed(() => ['pattern-jobs', id.value]), queryFn: () => settled(client.GET('/api/patterns/{number}/jobs', { params: { path: { number: id.value } } })) })
const { act, busy, refusal } = useAct()

// What is being written outlives a reload; it is of one revision, and another window's is told and not written over.
const draft = useStorage<{ seen: number; sheet: Sheet; base: Sheet } | null>(`saldatura.pattern.draft.${props.id}`, null, undefined, { serializer: { read: (v) => (v ? JSON.parse(v) : null), write: JSON.stringify } })
const working = computed(() => draft.value !== null)
const sheet = computed<Sheet | null>(() => (working.value ? draft.value!.sheet : (pattern.value?.sheet ?? null)))
const photo = ref<string | null>(null)
const why = ref('')
const by = ref(settings.value.technician)
const causes = computed(() => Object.fromEntries((terms.value?.causes ?? []).map((c) => [c.key, c.name])))
const ORDER: Section[] = ['contacts', 'opening', 'plugs', 'boards', 'codes', 'normals', 'quirks', 'cells', 'parts', 'faults', 'closing']

const copied = (source: Sheet): Sheet => JSON.parse(JSON.stringify(source)) as Sheet
const meanwhile = ref<string | null>(null)
/** Another window signed meanwhile: what this one did not touch is theirs now, and what it did stays; the hand looks, and signs again. */
async function joinTheirs() {
  const theirs = await settled(client.GET('/api/patterns/{number}', { params: { path: { number: id.value } } }))
  draft.value = { seen: theirs.last_id, sheet: following(copied(theirs.sheet), draft.value!.base, draft.value!.sheet), base: copied(theirs.sheet) }
  keepPattern(theirs)
  const last = theirs.history[0]
  meanwhile.value = last ? `${last.by} changed it meanwhile: ${last.says.slice(0, 4).join('; ')}. What you did not touch is as it is there now; look at the rest, then sign.` : null
}
function work() {
  if (!pattern.value || pattern.value.retired) return
  if (!working.value) draft.value = { seen: pattern.value.last_id, sheet: copied(pattern.value.sheet), base: copied(pattern.value.sheet) }
}
// Thrown away by a slip it is there again until the page is left.
const thrown = ref<typeof draft.value>(null)
function throwAway() {
  thrown.value = draft.value
  draft.value = null
  meanwhile.value = null
  refusal.value = null
}
function takeUp() {
  draft.value = thrown.value
  thrown.value = null
}
const put = (change: Partial<Sheet>) => draft.value && (draft.value = { ...draft.value, sheet: { ...draft.value.sheet, ...change } })
const lines = (section: Section, statements: Statement[]) => put({ [section]: statements } as Partial<Sheet>)
async function sign() {
  const { seen, sheet: sent } = draft.value!
  const made = await act(() => settled(client.POST('/api/patterns/{number}', { params: { path: { number: id.value }, query: { seen } }, body: { sheet: sent, by: by.value, why: why.value || 'worked on by hand' } })))
  if (!made) {
    if (refusal.value?.on('stale')) await joinTheirs()
    return
  }
  // What is changed while it is being signed is there to be signed next.
  const since = draft.value && following(copied(made.sheet), sent, draft.value.sheet)
  draft.value = since && JSON.stringify(since) !== JSON.stringify(made.sheet) ? { seen: made.last_id, sheet: since, base: copied(made.sheet) } : null
  meanwhile.value = null
  why.value = ''
  keepPattern(made)
}
async function given(call: () => Promise<Parameters<typeof keepPattern>[0]>) {
  const made = await act(call)
  if (made) keepPattern(made)
}
const path = computed(() => ({ path: { number: id.value } }))
const held = (line: string, did: boolean) => given(() => settled(client.POST('/api/patterns/{number}/held', { params: path.value, body: { line, held: did, by: settings.value.technician || 'not told' } })))
const back = () => given(() => settled(client.POST('/api/patterns/{number}/back', { params: path.value, body: { by: settings.value.technician || 'not told', why: 'taken back' } })))
const away = (retired: boolean) => given(() => settled(client.POST('/api/patterns/{number}/retired', { params: path.value, body: { by: settings.value.technician || 'not told', why: retired ? 'put away' : 'taken out again', retired } })))
const changed = computed(() => (pattern.value?.history.filter((h) => h.revision).length ?? 0) > 1)
const print = () => window.print()
useShortcuts([
  { key: 'e', does: 'work on the sheet', run: work },
  { key: 'p', does: 'print the sheet', run: print },
])
</script>

<template>
  <OpenFrame :title="sheet?.title ?? 'Pattern'" :under="pattern ? `${buildOf(pattern.sheet.pack)}, ${wholeAh(pattern.sheet.pack)} Ah, revision ${pattern.revision}` : ''">
    <main class="page">
      <p v-if="error" class="error" role="alert">{{ error instanceof Refusal ? error.message : 'This pattern cannot be shown.' }} <RouterLink to="/patterns">Patterns</RouterLink></p>
      <article v-if="pattern && sheet" class="sheet">
        <p v-if="pattern.retired" class="note">Put away<template v-if="pattern.merged_into">: it is a part of <RouterLink :to="`/patterns/${pattern.merged_into}`">another pattern</RouterLink></template>. <button type="button" class="linklike" @click="away(false)">take it out again</button></p>
        <p v-if="thrown && !working" class="note">Thrown away. <button type="button" class="linklike" @click="takeUp">take it up again</button></p>
        <SheetHead :key="draft?.seen ?? 0" :sheet="sheet" :working="working" :refusal="refusal" @change="put" />
        <section class="seen" aria-label="The pack">
          <SheetPhotos v-if="sheet.photos.length || working" v-model="photo" :sheet="sheet" :working="working" @photos="(photos) => put({ photos })" />
          <StringSketch :sheet="sheet" />
        </section>
        <div class="lines-of">
          <template v-for="s in ORDER" :key="s"><SheetSection v-if="s !== 'faults' || working" :section="s" :sheet="sheet" :working="working" :causes="causes" @lines="lines(s, $event)" @photo="photo = $event" @held="held" /></template>
          <p v-if="sheet.built" class="muted">How its block is built is known: a job of this pattern begins Join with it.</p>
          <p v-if="!working && (sheet.provenance || sheet.licence)" class="muted small">{{ [sheet.provenance, sheet.licence].filter(Boolean).join('. ') }}</p>
        </div>
        <form v-if="working" class="sign" @submit.prevent="sign">
          <TextField v-model="by" label="Who changed it" maxlength="60" :error="refusal?.on('by')" />
          <TextField v-model="why" label="Why, in a word" maxlength="400" :error="refusal?.on('why')" placeholder="worked on by hand" />
          <p v-if="meanwhile" class="error" role="alert">{{ meanwhile }}</p>
          <p v-else-if="refusal && !refusal.on('by') && !refusal.on('why')" class="error" role="alert">{{ refusal.lines[0]?.field.replace('sheet.', '') }}: {{ refusal.message }}</p>
          <div><ElButton type="primary" size="large" native-type="submit" :loading="busy">Sign the change</ElButton> <ElButton size="large" @click="throwAway">Throw it away</ElButton></div>
        </form>
      </article>
    </main>
    <aside class="side">
      <template v-if="pattern && sheet">
        <div v-if="!working" class="does noprint">
          <RouterLink v-if="!pattern.retired" class="go" :to="{ path: '/take-in', query: { pattern: id } }">Take in such a pack</RouterLink>
          <div class="also"><button v-if="!pattern.retired" type="button" class="linklike first" @click="work">work on it</button><button type="button" class="linklike" @click="print">print</button><a class="linklike" :href="`/api/patterns/${id}/export`" download>as a file</a></div>
        </div>
        <p v-if="refusal && !working" class="error" role="alert">{{ refusal.message }}</p>
        <section><h2>What they had</h2><FaultBars v-if="pattern.bars.length" :bars="pattern.bars" :simulated="pattern.counted.simulated" /><p v-else class="muted">Nothing yet. A cause that is confirmed and signed on a job of this pattern counts here by itself.</p></section>
        <section v-if="jobs?.length" class="noprint">
          <h2>Its packs</h2>
          <p v-for="j in jobs" :key="j.job_id"><RouterLink :to="stagePath(j.job_id, 'hand_over')">job {{ jobNumber(j.job_id) }}</RouterLink> <span class="muted">{{ j.cause ?? j.standing.replaceAll('_', ' ') }}</span><span v-for="d in j.differs" :key="d" class="differs">{{ d }}</span></p>
        </section>
        <details class="noprint">
          <summary>How it came to be</summary>
          <p v-for="h in pattern.history" :key="h.id" class="told"><strong>{{ h.revision ? `Revision ${h.revision}` : h.retired ? 'Put away' : 'Taken out again' }}</strong>, {{ day(h.at) }}, {{ h.by }}: {{ h.why }}{{ h.from_file ? ' (from a file)' : '' }}<span v-for="s in h.says.slice(0, 6)" :key="s" class="muted differs">{{ s }}</span></p>
          <button v-if="changed && !working" type="button" class="linklike first" @click="back">take the last change back</button>
        </details>
        <CompareChoice v-if="!working" :id="id" class="noprint" @chosen="router.push(`/patterns/${id}/with/${$event}`)" />
        <p class="also noprint"><a :href="`/api/patterns/${id}/pins.csv`" download>pins as a table</a><a :href="`/api/patterns/${id}/codes.csv`" download>codes as a table</a><button v-if="!pattern.retired && !working" type="button" class="linklike" @click="away(true)">put it away</button></p>
        <p class="muted small">What other packs were is no promise of this one. Measure it; data sheet and local rules come first.</p>
      </template>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.page {
  overflow: auto;
  padding: 20px 28px 24px;
  position: relative;
}

.sheet {
  align-items: start;
  display: grid;
  gap: 16px 28px;
  grid-template-columns: minmax(300px, 43%) minmax(0, 1fr);
}

.sheet > :not(.seen, .lines-of) {
  grid-column: 1 / -1;
}

/* The picture stays in sight while the lines beside it are read. */
.seen {
  position: sticky;
  top: 0;
}

.lines-of {
  display: grid;
  gap: 16px;
  grid-template-columns: minmax(0, 1fr);
}

.side {
  align-content: start;
  border-left: 1px solid var(--ink);
  display: grid;
  gap: 16px;
  overflow: auto;
  padding: 20px 20px 24px;
}

@media print {
  .page {
    overflow: visible;
    padding: 0;
  }
}

@media (max-width: 820px) {
  .sheet {
    grid-template-columns: minmax(0, 1fr);
  }

  .seen {
    position: static;
  }
}

.note {
  border-left: 4px solid var(--copper);
  padding-left: 12px;
}

.sign {
  background: var(--sheet);
  border-top: 2px solid var(--copper);
  bottom: -24px;
  display: grid;
  gap: 10px 16px;
  grid-template-columns: 160px minmax(0, 1fr) auto;
  align-items: end;
  margin-bottom: -24px;
  padding: 12px 0;
  position: sticky;
}

.sign > .error {
  grid-column: 1 / -1;
}

.does,
section {
  display: grid;
  gap: 8px;
}

.go {
  align-items: center;
  background: var(--petrol);
  color: var(--on-petrol);
  display: flex;
  font-weight: 650;
  justify-content: center;
  min-height: 48px;
  text-decoration: none;
}

.also {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
}

.first {
  margin-left: 0;
}

.differs {
  display: block;
  font-size: 14px;
}

.told {
  padding: 4px 0;
}

.small {
  font-size: 14px;
}
</style>
