<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { useDebounce } from '@vueuse/core'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { queryClient } from '@/api/queries'
import OpenFrame from '@/bench/OpenFrame.vue'
import { day } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useSettings } from '@/composables/useSettings'
import { useShortcuts } from '@/composables/useShortcuts'
import FileButton from '@/forms/FileButton.vue'
import TextField from '@/forms/TextField.vue'
import ChangeLines from './ChangeLines.vue'
import NewPatternForm from './NewPatternForm.vue'
import { buildOf, photoOf, usePatternsQuery, wholeAh } from './usePatterns'

/** What the shop knows of pack models: every sheet, found by its words. */
const router = useRouter()
const settings = useSettings()
const search = ref('')
const asked = useDebounce(search, 120)
const retired = ref(false)
const { data, error } = usePatternsQuery(asked, retired)
const field = useTemplateRef<{ focus: () => void }>('field')
const beginning = ref(false)
const { act, busy, refusal } = useAct()

const file = ref<{ name: string; document: Record<string, unknown>; looked: Schemas['Looked'] } | null>(null)
const chosen = ref<string[]>([])
const by = ref(settings.value.technician)
const RELATION: Record<Schemas['Looked']['relation'], string> = {
  new: 'It is not here yet.',
  same: 'It is here already, as it stands in the file.',
  newer: 'It is here, and the file says more: it follows from ours.',
  older: 'It is here, and ours says more: the file is an earlier one.',
  fork: 'It is here, and both were changed apart.',
}
async function open(given: File) {
  refusal.value = null
  file.value = null
  let document: Record<string, unknown>
  try {
    document = JSON.parse(await given.text())
  } catch {
    refusal.value = new Refusal([{ field: 'file', message: `${given.name} is no JSON; choose a file that a page of Patterns exported.` }], 422)
    return
  }
  const answer = await act(() => settled(client.POST('/api/patterns/import', { params: { query: { look: true } }, body: document as never })))
  if (!answer?.looked) return
  file.value = { name: given.name, document, looked: answer.looked }
  chosen.value = answer.looked.lines.map((l) => l.line)
}
async function bring(choice: 'accept' | 'keep_both' | 'skip') {
  const held = file.value!
  if (choice === 'skip') return void (file.value = null)
  const lines = choice === 'accept' && held.looked.lines.length ? chosen.value : undefined
  const answer = await act(() => settled(client.POST('/api/patterns/import', { params: { query: { by: by.value, choice, lines } }, body: held.document as never })))
  if (!answer) return
  file.value = null
  await queryClient.invalidateQueries({ queryKey: ['patterns'] })
  if (answer.id) void router.push(`/patterns/${answer.id}`)
}
const known = computed(() => file.value?.looked.relation !== 'new')
const differs = computed(() => ['newer', 'older', 'fork'].includes(file.value?.looked.relation ?? ''))
useShortcuts([
  { key: '/', does: 'find a pattern', run: () => field.value?.focus() },
  { key: 'n', does: 'begin a pattern', run: () => (beginning.value = true) },
])
</script>

<template>
  <OpenFrame title="Patterns" under="What the shop knows of pack models">
    <main class="patterns">
      <div class="bar">
        <ElInput ref="field" v-model="search" size="large" class="find" aria-label="Find a pattern" placeholder="title, tag, label or cell" maxlength="80" clearable />
        <FileButton label="Bring in a file" accept=".json,application/json" :busy="busy" @chosen="open" />
        <ElButton size="large" @click="beginning = !beginning">Begin a pattern</ElButton>
      </div>
      <p v-if="error" class="error" role="alert">The patterns cannot be shown.</p>
      <p v-if="refusal && !file" class="error" role="alert">{{ refusal.message }}</p>
      <NewPatternForm v-if="beginning" @left="beginning = false" />
      <section v-if="file" class="brought" aria-label="The file">
        <h2>{{ file.looked.title }} <span class="muted">revision {{ file.looked.revision }}, from {{ file.name }}</span></h2>
        <p>{{ RELATION[file.looked.relation] }}<template v-if="file.looked.counted"> Other shops counted more by now.</template><template v-if="known && file.looked.ours"> Ours is revision {{ file.looked.ours }}.</template></p>
        <ChangeLines v-if="file.looked.lines.length" v-model="chosen" :lines="file.looked.lines" label="What the file would change" />
        <TextField v-model="by" label="Who takes it" maxlength="60" :error="refusal?.on('by')" class="who" />
        <p v-if="refusal && !refusal.on('by')" class="error" role="alert">{{ refusal.message }}</p>
        <div class="acts">
          <ElButton v-if="file.looked.relation !== 'same' || file.looked.counted" type="primary" size="large" :disabled="differs && !chosen.length" :loading="busy" @click="bring('accept')">{{ !known ? 'Take it in' : chosen.length === file.looked.lines.length ? 'Take all of it' : `Take ${chosen.length} of ${file.looked.lines.length} lines` }}</ElButton>
          <ElButton v-if="differs" size="large" :loading="busy" @click="bring('keep_both')">Keep both</ElButton>
          <ElButton size="large" @click="bring('skip')">Leave it</ElButton>
        </div>
      </section>
      <ul v-if="data?.patterns.length" class="list">
        <li v-for="p in data.patterns" :key="p.id">
          <RouterLink :to="`/patterns/${p.id}`" class="row">
            <img v-if="p.photo" :src="photoOf(p.photo)" alt="" loading="lazy" />
            <span v-else class="bare mono" aria-hidden="true">{{ buildOf(p.pack) }}</span>
            <span class="title"><strong>{{ p.title }}</strong><span class="muted">{{ p.statements }} {{ p.statements === 1 ? 'line' : 'lines' }}, revision {{ p.revision }}, {{ day(p.touched_at) }}</span></span>
            <span class="mono build">{{ buildOf(p.pack) }}<br />{{ wholeAh(p.pack) }} Ah</span>
            <span class="count"><strong class="mono">{{ p.jobs }}</strong> {{ p.jobs === 1 ? 'pack' : 'packs' }} here<template v-if="p.elsewhere"><br /><span class="muted">{{ p.elsewhere }} told of</span></template></span>
          </RouterLink>
        </li>
      </ul>
      <p v-else-if="data && search" class="muted">No pattern holds all of “{{ search }}”.</p>
      <p v-else-if="data" class="lead muted">{{ retired ? 'None is put away.' : 'A pattern is what was learned of one model of pack: how it opens, where to touch, what its lamps mean, what usually fails. The first begins at the end of a job, in Hand over, with what that pack taught; or with a file from another shop.' }}</p>
      <p v-if="data && data.total > data.patterns.length" class="muted">{{ data.total - data.patterns.length }} more; find them by a word.</p>
    </main>
    <aside class="side">
      <h2>From hand to hand</h2>
      <p class="muted">A pattern is one file with its photos inside. Nothing of a customer is in it: no name, no serial, no address. What another shop's file would change is shown line by line before anything is taken.</p>
      <button type="button" class="chip" :aria-pressed="retired" @click="retired = !retired">those put away</button>
      <p class="muted small">A sheet says what was found on other packs. Measure this one: makers change boards without a word.</p>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.patterns {
  align-content: start;
  display: grid;
  gap: 16px;
  overflow: auto;
  padding: 20px 28px;
}

.bar,
.acts {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
}

.find {
  flex: 1 1 260px;
}

.brought {
  border-left: 4px solid var(--copper);
  display: grid;
  gap: 12px;
  padding-left: 16px;
}

h2 .muted {
  font-size: 14px;
  font-weight: 400;
}

.who {
  max-width: 320px;
}

.list {
  border-top: 1px solid var(--ink);
  list-style: none;
  margin: 0;
  padding: 0;
}

.list li {
  border-bottom: 1px solid var(--rule);
}

.row {
  align-items: center;
  color: var(--ink);
  display: grid;
  gap: 18px;
  grid-template-columns: 112px minmax(0, 1fr) 96px 130px;
  padding: 8px 6px;
  text-decoration: none;
}

.row:hover {
  background: var(--petrol-tint);
}

.row img,
.bare {
  height: 70px;
  object-fit: cover;
  width: 112px;
}

.bare {
  align-items: center;
  border: 1px dashed var(--muted);
  color: var(--muted);
  display: flex;
  justify-content: center;
}

.title {
  display: grid;
  gap: 2px;
}

.title strong {
  font-size: 19px;
}

.lead {
  font-size: 18px;
  max-width: 62ch;
}

.side {
  align-content: start;
  border-left: 1px solid var(--ink);
  display: grid;
  gap: 14px;
  justify-items: start;
  overflow: auto;
  padding: 24px 18px;
}

.small {
  font-size: 14px;
}

@media (max-width: 760px) {
  .row {
    grid-template-columns: 84px minmax(0, 1fr);
  }

  .row img,
  .bare {
    height: 56px;
    width: 84px;
  }
}
</style>
