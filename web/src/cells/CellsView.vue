<script setup lang="ts">
import { useDebounce } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { client, settled } from '@/api/client'
import OpenFrame from '@/bench/OpenFrame.vue'
import { useAct } from '@/composables/useAct'
import { useSettings } from '@/composables/useSettings'
import { useShortcuts } from '@/composables/useShortcuts'
import CellPlot, { type Box } from '@/figures/CellPlot.vue'
import BringTests from './BringTests.vue'
import CellSheet from './CellSheet.vue'
import CellTable from './CellTable.vue'
import DonorsMend from './DonorsMend.vue'
import EnterCells from './EnterCells.vue'
import LabelSheet from './LabelSheet.vue'
import ScanField from './ScanField.vue'
import { type Asked, namesOf, type Sort, useAnew, useCatalogue, useMarks } from './useCells'

/** The drawer: a figure first, each cell a mark; the rows beneath it; and what is done with them at the side. */
const route = useRoute()
const router = useRouter()
const settings = useSettings()
const anew = useAnew()
const { data: catalogue } = useCatalogue()
const type = ref('')
const grade = ref<Asked['grade']>('')
const where = ref<Asked['where']>('drawer')
const search = ref('')
const sought = useDebounce(search, 200)
const box = ref<Box | null>(null)
const sort = ref<Sort>('grade')
const asked = computed<Asked>(() => ({ type: type.value, grade: grade.value, where: where.value, search: sought.value, box: box.value, sort: sort.value }))
const { data: marks, error } = useMarks(asked)
const total = ref(0)
const picked = ref(new Set<string>())
const side = ref<'cell' | 'enter' | 'bring' | 'picked' | 'mends'>('cell')
const chosen = computed(() => (typeof route.params.name === 'string' ? route.params.name : null))
const unknown = ref('')
const grades = computed(() => catalogue.value?.grades ?? [])
const rated = computed(() => catalogue.value?.types.find((t) => t.name === (type.value || (marks.value?.types.length === 1 ? marks.value.types[0] : '')))?.rated_ah ?? null)
const WHERE: Record<Asked['where'], string> = { drawer: 'in the drawer', held: 'set aside', built: 'built in', scrap: 'scrapped', everywhere: 'everywhere' }

watch([type, grade, where, sought], () => (box.value = null))
watch(chosen, (name) => name && (side.value = 'cell'), { immediate: true })

const open = (name: string) => router.push(`/cells/${encodeURIComponent(name)}`)
function pick(name: string) {
  const now = new Set(picked.value)
  if (!now.delete(name)) now.add(name)
  picked.value = now
  if (now.size) side.value = 'picked'
}
async function pickAll() {
  picked.value = new Set(await namesOf(asked.value))
  side.value = 'picked'
}
async function scan(name: string) {
  unknown.value = ''
  const found = await settled(client.GET('/api/cells/of/{name}', { params: { path: { name } } })).catch(() => null)
  if (found) return open(found.cell.name)
  unknown.value = name
  side.value = 'enter'
}
const { act, busy, refusal } = useAct()
const to = ref('')
const why = ref('')
async function moveAll(place: 'drawer' | 'scrap') {
  const body = { cells: [...picked.value], move: { to: place, box: place === 'drawer' ? to.value : '', row: '', by: settings.value.technician || null, reason: why.value } }
  if (!(await act(() => settled(client.POST('/api/cells/moves', { body }))))) return
  picked.value = new Set()
  side.value = 'cell'
  await anew()
}
const scrapping = ref(false)

useShortcuts(() => [
  { key: 'b', does: 'bring a tester’s file in', run: () => (side.value = 'bring') },
  { key: 'e', does: 'enter cells', run: () => (side.value = 'enter') },
  { key: 'p', does: 'pick all that are shown', run: () => void pickAll() },
  { key: 'm', does: 'which packs these cells mend', run: () => (side.value = 'mends') },
  { key: 'Escape', does: 'let go of the box and the pick', run: () => { box.value = null; picked.value = new Set() } },
])
</script>

<template>
  <OpenFrame title="Cells" :under="`${total} ${WHERE[where]}`">
    <main class="work">
      <div class="rules">
        <div class="chips" role="group" aria-label="Type">
          <button type="button" class="chip" :aria-pressed="!type" @click="type = ''">every type</button>
          <button v-for="t in catalogue?.types ?? []" :key="t.name" type="button" class="chip" :aria-pressed="type === t.name" @click="type = t.name">{{ t.name }}</button>
        </div>
        <ElSelect v-model="where" aria-label="Where" class="pick"><ElOption v-for="(words, key) in WHERE" :key="key" :value="key" :label="words" /></ElSelect>
        <ElSelect v-model="grade" aria-label="Grade" class="pick" placeholder="every grade"><ElOption value="" label="every grade" /><ElOption v-for="g in grades" :key="g.key" :value="g.key" :label="g.name" /></ElSelect>
        <ElInput v-model="search" aria-label="Name, donor or box" placeholder="name, donor, box" class="pick" />
      </div>
      <p v-if="error" class="error" role="alert">The drawer cannot be shown: the program did not answer. It tries again by itself.</p>
      <CellPlot
        :names="marks?.names ?? []" :capacity-ah="marks?.capacity_ah ?? []" :ohm="marks?.ohm ?? []" :grade="marks?.grade ?? []"
        :grades="grades" :rated="rated"
        :box="box" :chosen="chosen" :ringed="picked.size < 300 ? [...picked] : []" @box="box = $event"
        @choose="open"
      />
      <p class="under muted">
        <template v-if="box">{{ total }} in the box you drew. <button type="button" class="linklike" @click="box = null">clear the box</button></template>
        <template v-else>{{ marks?.unplaced ? `${marks.unplaced} more lack a capacity or a resistance. ` : '' }}Draw a box to pick by it.</template>
        <button v-if="total" type="button" class="linklike" @click="pickAll">pick all {{ Math.min(total, 2000) }}</button>
      </p>
      <CellTable :asked="asked" :chosen="chosen" :picked="picked" :grades="grades" @choose="open" @pick="pick" @sort="sort = $event" @total="total = $event" />
    </main>
    <aside class="side" aria-label="What is done with cells">
      <ScanField @scan="scan" />
      <div class="chips" role="group" aria-label="At the side">
        <button type="button" class="chip" :aria-pressed="side === 'bring'" @click="side = 'bring'">Bring tests in</button>
        <button type="button" class="chip" :aria-pressed="side === 'enter'" @click="side = 'enter'">Enter cells</button>
        <button type="button" class="chip" :aria-pressed="side === 'mends'" @click="side = 'mends'">What they mend</button>
        <button v-if="picked.size" type="button" class="chip" :aria-pressed="side === 'picked'" @click="side = 'picked'">Picked {{ picked.size }}</button>
        <button v-if="chosen" type="button" class="chip" :aria-pressed="side === 'cell'" @click="side = 'cell'">{{ chosen }}</button>
      </div>
      <p v-if="unknown && side === 'enter'" role="status">There is no cell {{ unknown }} yet. Enter it here, and its label is right.</p>
      <CellSheet v-if="side === 'cell' && chosen" :key="chosen" :name="chosen" :grades="grades" :seen="catalogue?.seen ?? []" />
      <p v-else-if="side === 'cell'" class="muted">Touch a mark or a row for a cell’s grade, tests and places. Good cells lie to the right and low.</p>
      <EnterCells v-if="side === 'enter' && catalogue" :key="unknown" :types="catalogue.types" :name="unknown" @entered="unknown = ''" />
      <BringTests v-if="side === 'bring'" :types="catalogue?.types ?? []" @kept="sort = 'grade'" />
      <DonorsMend v-if="side === 'mends'" />
      <section v-if="side === 'picked' && picked.size" class="picked">
        <h2>{{ picked.size }} picked</h2>
        <LabelSheet :names="[...picked]" />
        <form class="line" @submit.prevent="moveAll('drawer')"><ElInput v-model="to" aria-label="Box" placeholder="to box" maxlength="30" /><ElButton native-type="submit" :loading="busy">Move them there</ElButton></form>
        <ElButton v-if="!scrapping" @click="scrapping = true">Scrap them</ElButton>
        <form v-else class="picked" @submit.prevent="moveAll('scrap')"><p>Ends taped, into cell waste. Nothing brings them back.</p><ElInput v-model="why" aria-label="Why" placeholder="why" maxlength="400" /><div class="line"><ElButton type="primary" native-type="submit" :loading="busy">Scrap {{ picked.size }} for good</ElButton><ElButton @click="scrapping = false">Cancel</ElButton></div></form>
        <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
      </section>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.work {
  display: grid;
  gap: 6px;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto auto auto minmax(200px, 1fr);
  min-height: 0;
  overflow: auto;
  padding: 12px 20px 8px 24px;
}

.rules,
.chips,
.line {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
}

.pick {
  width: 136px;
}

.rules .chip {
  padding: 0 8px;
}

.under {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
}

.side {
  align-content: start;
  border-left: 1px solid var(--rule);
  display: grid;
  gap: 16px;
  grid-template-columns: minmax(0, 1fr);
  overflow: auto;
  padding: 16px 18px 30px;
}

.picked {
  display: grid;
  gap: 12px;
}
</style>
