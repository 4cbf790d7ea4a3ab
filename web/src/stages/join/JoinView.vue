<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import { computed, type Ref, ref } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { client, Refusal, settled } from '@/api/client'
import Caution from '@/bench/Caution.vue'
import MoreSaid from '@/bench/MoreSaid.vue'
import { askChange } from '@/bench/acts'
import NextButton from '@/bench/NextButton.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'
import BlockMap from '@/figures/BlockMap.vue'
import BlockFields from './BlockFields.vue'
import FitFields from './FitFields.vue'
import HandMap from './HandMap.vue'
import PartFields from './PartFields.vue'
import ReadAt from '@/bench/ReadAt.vue'
import StripTable from './StripTable.vue'
import { type Block, useBlock, useKeepBlock } from './useBlock'
import { useMapDraft } from './useMapDraft'
import WeldLab from './WeldLab.vue'
import WiringTable from './WiringTable.vue'
import WorkLists from './WorkLists.vue'

/** From chosen cells to a block that is right the first time: map, strips, welds, order of work, wiring. */
const job = useJob()
const route = useRoute()
const { data: block, error } = useBlock()
const TABS = { map: 'Map', strips: 'Strips', welds: 'Weld lab', work: 'Work list', wiring: 'Wiring' } as const
type Tab = keyof typeof TABS
const tab = computed<Tab>(() => (String(route.query.of ?? 'map') in TABS ? (String(route.query.of ?? 'map') as Tab) : 'map'))
const side = ref<'top' | 'bottom'>('top')
const chosen = ref<string | null>(null)
const picked = ref<number | null>(null)
const closed = computed(() => job.value.assessment.closed !== null)
const series = computed(() => job.value.facts.intake.pack.series)
const { act, busy, refusal } = useAct()
const cells = computed(() => (side.value === 'top' ? block.value?.map.cells : block.value?.below) ?? [])
const polarity = computed(() => block.value?.polarity ?? [])
const wanted = computed(() => polarity.value.filter((p) => p.wanted))
const next = computed(() => polarity.value.find((p) => p.cell === chosen.value) ?? wanted.value.find((p) => p.right === null) ?? polarity.value.find((p) => p.right === false) ?? null)
// The layer in hand: the one that is picked, else that of the cell to read.
const layer = computed(() => Math.min(picked.value ?? (tab.value === 'map' ? next.value?.layer : undefined) ?? 1, block.value?.map.layers.length ?? 1))
const placing = useKeepBlock(block as Ref<Block>)
const map = useMapDraft(block, placing.keep)
function choose(cell: string) {
  chosen.value = cell
  picked.value = null
}
const turn = () => (side.value = side.value === 'top' ? 'bottom' : 'top')

/** What the cell reads with red on the pole that lies up now; as it is kept, it is read from above. */
async function keep(value: number) {
  const body = { cell: next.value!.cell, volts: side.value === 'top' || next.value!.lies === 'along' ? value : -value }
  const kept = await act(() => settled(client.POST('/api/jobs/{job_id}/polarity', { params: { path: { job_id: job.value.facts.id } }, body })))
  if (kept) chosen.value = picked.value = null
  return kept
}
const up = computed(() => (next.value ? (next.value.expects === 'positive') === (side.value === 'top' || next.value.lies === 'along') : true))
// Where red goes, as the cell stands on the bench.
const RED = { standing: 'the pole that lies up', across: 'its right end', along: 'its far end' } as const
const probes = computed(() => {
  if (!next.value) return null
  const [low, high] = [next.value.group - 1, next.value.group]
  return { at: 'taps' as const, black: up.value ? low : high, red: up.value ? high : low }
})
const groupV = computed(() => (next.value && job.value.now.groups[next.value.group - 1]?.volts) || null)
// A map told by hand for another build, as after a corrected intake, fits this one no more.
const anew = () => act(() => settled(client.POST('/api/jobs/{job_id}/block', { params: { path: { job_id: job.value.facts.id } }, body: {} as never })))
// Where cells are put in by hand and not by the list, it is told in a form of its own.
const changes = computed(() => ['rebuild', 'groups', 'donor', 'board_mounted'].includes(block.value?.work ?? ''))
useShortcuts(() => [
  ...(map.draft.value ? [] : [{ key: 'f', does: 'turn the block over', always: true, run: turn }]),
  ...(tab.value === 'map' && !closed.value && !map.draft.value ? [{ key: 'h', does: 'place the cells by hand', always: true, run: () => map.begin() }] : []),
])
</script>

<template>
  <StageLayout>
    <section class="join">
      <header>
        <h1>{{ TABS[tab] }}<template v-if="tab === 'map' || tab === 'strips' || tab === 'work'">, {{ side === 'top' ? 'upper' : 'lower' }} side up</template></h1>
        <nav class="tabs" aria-label="Parts of joining"><RouterLink v-for="(words, key) in TABS" :key="key" :to="{ query: { of: key } }" :class="{ on: key === tab }" :aria-current="key === tab ? 'page' : undefined">{{ words }}</RouterLink></nav>
      </header>
      <p v-if="error" class="error" role="alert">{{ error instanceof Refusal ? error.message : 'The block cannot be computed.' }}</p>
      <div v-if="error instanceof Refusal && !closed"><ElButton :loading="busy" @click="anew">Begin the map anew, in a grid</ElButton></div>
      <template v-if="block">
        <HandMap v-if="tab === 'map' && map.draft.value" :map="map" :block="block" :series="series" :busy="placing.busy.value" :refusal="placing.refusal.value" />
        <template v-else-if="tab === 'map'">
          <section v-if="next && !closed" class="run">
            <p class="label"><TermWord of="polarity_run">Polarity run</TermWord>, {{ wanted.filter((p) => p.right).length }} of {{ wanted.length }}</p>
            <ReadAt :what="`${next.cell}, red on ${RED[next.lies]}`" :label="`${next.cell} reads, V`" :expected="groupV === null ? null : up ? groupV : -groupV" signed :most="10" :probes="probes" auto :busy="busy" :keep="keep" />
            <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
          </section>
          <div v-if="block.map.layers.length > 1" class="chips" role="group" aria-label="Layer in hand"><button v-for="n in block.map.layers.length" :key="n" type="button" class="chip" :aria-pressed="n === layer" @click="picked = n">layer {{ n }}</button><span class="muted">The others are outlines.</span></div>
          <BlockMap :cells="cells" :layer="layer" :length="block.map.cell_mm" :links="block.map.links" :side="side" :diameter="block.entered.diameter_mm" :segments="block.strips?.segments ?? []" :polarity="polarity" :chosen="next?.cell" :sensors="block.entered.sensors" @choose="choose" />
          <p class="muted">The copper mark is on one real corner of the block. <button type="button" class="linklike" @click="turn">turn it over <kbd>f</kbd></button> <button v-if="!closed" type="button" class="linklike" @click="map.begin()">place by hand, like the old one <kbd>h</kbd></button> <a :href="`/api/jobs/${job.facts.id}/block.svg?side=${side}&layer=${layer}`" download>1:1 as SVG</a> <a :href="`/api/jobs/${job.facts.id}/block.dxf?side=${side}&layer=${layer}`" download>DXF</a></p>
          <BlockFields :block="block" :closed="closed" />
          <FitFields :block="block" :closed="closed" />
          <PartFields :block="block" :closed="closed" :wired="job.now.balance_wires" />
        </template>
        <StripTable v-else-if="tab === 'strips'" :block="block" :cells="cells" :side="side" :layer="layer" :closed="closed" @turn="turn" @layer="picked = $event" />
        <WeldLab v-else-if="tab === 'welds'" :block="block" :closed="closed" />
        <WorkLists v-else-if="tab === 'work'" :block="block" :side="side" :closed="closed" :series="series" />
        <WiringTable v-else :block="block" :closed="closed" :series="series" />
      </template>
    </section>
    <template v-if="block" #judgement>
      <section v-if="block.stop && tab !== 'wiring'" class="why stop"><p class="label">Before the first joint</p><p>{{ block.stop }}</p></section>
      <section v-if="block.strips && (tab === 'map' || tab === 'strips')" class="why">
        <p class="label">The <TermWord of="strip">strips</TermWord></p>
        <p>{{ block.strips.because }}</p>
        <p v-if="block.strips.mend">Least change: {{ block.strips.mend }}</p>
      </section>
      <section v-if="tab === 'map' && block.findings.length" class="why"><p class="label">Check on the map</p><p v-for="line in block.findings.slice(0, 3)" :key="line">{{ line }}</p><MoreSaid :more="block.findings.slice(3)" /></section>
      <section v-if="block.old_places.length && (tab === 'map' || tab === 'wiring')" class="why"><p class="label">The opened pack showed</p><p><RouterLink v-for="p in block.old_places" :key="p.says" :to="`/jobs/${job.facts.id}/photos`" class="place">{{ p.says }}</RouterLink></p></section>
      <Caution v-if="block.entered.arrangement === 'stack'" title="Every tab is live">Cover all but the one in hand. Aluminium takes no solder: cut so that the plated part stays. Nothing metal on hands or wrists.</Caution>
      <Caution v-else title="Bare strip is live">A can is minus right up to its shoulder: a ring on every plus end. Nothing metal on hands or wrists.</Caution>
      <a v-if="tab === 'strips'" :href="`/api/jobs/${job.facts.id}/block.cir`" download class="leads">The network as a netlist, to check</a>
      <a v-if="tab === 'work' || tab === 'wiring'" :href="`/api/jobs/${job.facts.id}/joining.pdf`" target="_blank" class="leads">Work list and wiring to print</a>
      <RouterLink v-if="tab === 'wiring'" :to="`/jobs/${job.facts.id}/leads`" class="leads">Loose wires: tell them apart in Leads</RouterLink>
      <ElButton v-if="!closed && changes" size="large" @click="askChange('cells', block.work_groups)">The new cells are in</ElButton>
      <template v-if="!job.assessment.frozen"><NextButton but="join" /><ElButton v-if="tab !== 'work' && (job.assessment.next?.code === 'join' || job.assessment.next?.code === 'list')" type="primary" size="large" @click="$router.push({ query: { of: 'work' } })">{{ job.assessment.next.says }}</ElButton></template>
    </template>
  </StageLayout>
</template>

<style scoped>
.join,
header,
.why {
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}

.join {
  gap: 14px;
}

h1 {
  font-size: 28px;
}

.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
}

.tabs a {
  border-bottom: 3px solid transparent;
  min-height: 40px;
  padding-top: 9px;
  text-decoration: none;
}

.tabs .on {
  border-color: var(--copper);
  color: var(--ink);
  font-weight: 700;
}

.run {
  border-bottom: 1px solid var(--ink);
  border-top: 1px solid var(--ink);
  padding: 10px 0;
}

.stop {
  border-left: 4px solid var(--copper);
  padding-left: 10px;
}

.place {
  display: inline-block;
  margin-right: 12px;
}
</style>
