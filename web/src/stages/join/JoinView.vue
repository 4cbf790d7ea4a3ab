<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { client, Refusal, settled } from '@/api/client'
import Caution from '@/bench/Caution.vue'
import StageButton from '@/bench/StageButton.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { parseNumber } from '@/composables/parseVolts'
import { volts } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'
import BlockMap from '@/figures/BlockMap.vue'
import BlockFields from './BlockFields.vue'
import { useBlock } from './useBlock'
import { useMapDraft } from './useMapDraft'
import WeldLab from './WeldLab.vue'
import WorkSteps from './WorkSteps.vue'

/** From chosen cells to a block that is right the first time: map, strips, welds, order of work, wiring. */
const job = useJob()
const route = useRoute()
const { data: block, error } = useBlock()
const TABS = { map: 'Map', strips: 'Strips', welds: 'Weld lab', down: 'Take down', up: 'Build up', wiring: 'Wiring' } as const
type Tab = keyof typeof TABS
const tab = computed<Tab>(() => (String(route.query.of ?? 'map') in TABS ? (String(route.query.of ?? 'map') as Tab) : 'map'))
const side = ref<'top' | 'bottom'>('top')
const chosen = ref<string | null>(null)
const read = ref('')
const closed = computed(() => job.value.assessment.closed !== null)
const { act, busy, refusal } = useAct()
const field = useTemplateRef<{ focus: () => void }>('field')
const cells = computed(() => (side.value === 'top' ? block.value?.map.cells : block.value?.below) ?? [])
const polarity = computed(() => block.value?.polarity ?? [])
const next = computed(() => chosen.value ?? polarity.value.find((p) => p.right === null)?.cell ?? null)
const shares = computed(() => Object.fromEntries((block.value?.strips?.cells ?? []).map((c) => [c.cell, c.share])))
const map = useMapDraft(block, () => job.value.facts.id, act)
const { draft, lookedFrom, at } = map
const turn = () => (side.value = side.value === 'top' ? 'bottom' : 'top')

async function keep() {
  const value = parseNumber(read.value)
  if (value === null || !next.value) {
    refusal.value = new Refusal([{ field: 'volts', message: 'Type what it reads with its sign, as in 3.7 or -3.7.' }], 422)
    return
  }
  const body = { cell: next.value, volts: value }
  if (!(await act(() => settled(client.POST('/api/jobs/{job_id}/polarity', { params: { path: { job_id: job.value.facts.id } }, body }))))) return
  read.value = ''
  chosen.value = null
  await nextTick()
  field.value?.focus()
}
const pitch = computed(() => block.value?.told.pitch_mm ?? (block.value?.told.diameter_mm ?? 18.4) + 1.8)
const STEP = 1
useShortcuts(() =>
  draft.value
    ? [
        { key: 'ArrowLeft', does: 'the cell a millimetre to the left', run: () => map.move(-STEP, 0) },
        { key: 'ArrowRight', does: 'to the right', run: () => map.move(STEP, 0) },
        { key: 'ArrowUp', does: 'up', run: () => map.move(0, -STEP) },
        { key: 'ArrowDown', does: 'down', run: () => map.move(0, STEP) },
        { key: 'x', does: 'turn the cell over', run: () => map.turn() },
        { key: ']', does: 'into the next group', run: () => map.regroup(1, job.value.facts.intake.pack.series) },
        { key: '[', does: 'into the group before', run: () => map.regroup(-1, job.value.facts.intake.pack.series) },
      ]
    : [
        { key: 'f', does: 'turn the block over', run: turn },
        ...(tab.value === 'map' && !closed.value ? [{ key: 'h', does: 'place the cells by hand', run: () => map.begin() }] : []),
      ],
)
</script>

<template>
  <StageLayout>
    <section class="join">
      <header>
        <h1>{{ TABS[tab] }}<template v-if="tab === 'map'">, {{ side === 'top' ? 'upper' : 'lower' }} side up</template></h1>
        <nav class="tabs" aria-label="Parts of joining"><RouterLink v-for="(words, key) in TABS" :key="key" :to="{ query: { of: key } }" :class="{ on: key === tab }" :aria-current="key === tab ? 'page' : undefined">{{ words }}</RouterLink></nav>
      </header>
      <p v-if="error" class="error" role="alert">{{ error instanceof Refusal ? error.message : 'The block cannot be computed.' }}</p>
      <template v-if="block">
        <template v-if="tab === 'map' && draft">
          <BlockMap :cells="draft" :links="[]" :side="lookedFrom" :diameter="block.told.diameter_mm" :chosen="at" @choose="at = $event" />
          <div class="chips" role="group" aria-label="Looked at"><span>You look at it</span><button type="button" class="chip" :aria-pressed="lookedFrom === 'top'" @click="map.lookFrom('top')">from above</button><button type="button" class="chip" :aria-pressed="lookedFrom === 'bottom'" @click="map.lookFrom('bottom')">from below, it lies upside down</button></div>
          <div class="chips" role="group" aria-label="The chosen cell">
            <strong>{{ at }}</strong>
            <ElButton @click="map.turn()">Turn it over <kbd>x</kbd></ElButton><ElButton @click="map.regroup(-1, job.facts.intake.pack.series)">Group before <kbd>[</kbd></ElButton><ElButton @click="map.regroup(1, job.facts.intake.pack.series)">Next group <kbd>]</kbd></ElButton>
            <ElButton @click="map.move(-pitch, 0)">A place left</ElButton><ElButton @click="map.move(pitch, 0)">right</ElButton><ElButton @click="map.move(0, -pitch)">up</ElButton><ElButton @click="map.move(0, pitch)">down</ElButton>
          </div>
          <p class="muted">Touch a cell, then set it as the old pack shows it: arrows move it by a millimetre. The program mirrors by itself what was seen from below.</p>
          <div class="chips"><ElButton type="primary" :loading="busy" @click="map.keep()">Keep this map</ElButton><ElButton @click="map.leave()">Leave it as it was</ElButton></div>
          <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
        </template>
        <template v-else-if="tab === 'map'">
          <BlockMap :cells="cells" :links="block.map.links" :side="side" :diameter="block.told.diameter_mm" :segments="block.strips?.segments ?? []" :polarity="polarity" :chosen="next" @choose="chosen = $event" />
          <p class="muted">The copper mark is on one real corner of the block. <button type="button" class="linklike" @click="turn">turn it over <kbd>f</kbd></button> <button v-if="!closed" type="button" class="linklike" @click="map.begin()">place by hand, like the old one <kbd>h</kbd></button> <a :href="`/api/jobs/${job.facts.id}/block.svg?side=${side}`" download>1:1 as SVG</a> <a :href="`/api/jobs/${job.facts.id}/block.dxf?side=${side}`" download>DXF</a></p>
          <BlockFields :block="block" :closed="closed" />
        </template>
        <template v-else-if="tab === 'strips'">
          <BlockMap :cells="cells" :links="block.map.links" :side="side" :diameter="block.told.diameter_mm" :segments="block.strips?.segments ?? []" :shares="shares" @choose="chosen = $event" />
          <p class="muted">As thick as their current, hatched where they warm too much; each cell with its share. <button type="button" class="linklike" @click="turn">other side <kbd>f</kbd></button></p>
          <table>
            <thead><tr><th>Strips, at {{ block.load_a }} A</th><th class="number">warmest, K</th><th class="number">drop, mV</th><th class="number">hardest cell</th><th class="number">heat, W</th></tr></thead>
            <tbody><tr v-for="c in block.choices" :key="c.says" :class="{ odd: !c.enough }"><td><strong v-if="c.chosen">{{ c.says }}, as told</strong><template v-else>{{ c.says }}</template><span v-if="!c.enough">: not enough</span></td><td class="number">{{ c.worst_rise_k.toFixed(1) }}</td><td class="number">{{ c.drop_mv.toFixed(0) }}</td><td class="number">{{ Math.round(c.largest_share * 100) }} %</td><td class="number">{{ c.links_w.toFixed(2) }}</td></tr></tbody>
          </table>
          <p class="muted">Is it nickel? Measured with four wires, 100 mm of 8 × 0.15 mm reads 5.8 mΩ in nickel and about 12.5 mΩ in plated steel; or a scratched piece rusts overnight in salt water.</p>
        </template>
        <WeldLab v-else-if="tab === 'welds'" />
        <WorkSteps v-else-if="tab === 'down'" :work="block.down" list="open" :closed="closed" />
        <WorkSteps v-else-if="tab === 'up'" :work="block.up" list="close" :closed="closed" />
        <table v-else>
          <thead><tr><th>Pin</th><th>Belongs to</th><th class="number">expect against pin 0, V</th><th class="number">within</th></tr></thead>
          <tbody><tr v-for="w in block.wiring" :key="w.pin"><td class="mono">{{ w.pin }}</td><td>{{ w.says }}</td><td class="number">{{ volts(w.expected_v, 2) }}</td><td class="number">±{{ (w.within_v * 1000).toFixed(0) }} mV</td></tr></tbody>
        </table>
      </template>
    </section>
    <template v-if="block" #judgement>
      <section v-if="block.stop" class="why stop"><p class="label">Before the first weld</p><p>{{ block.stop }}</p></section>
      <form v-if="tab === 'map' && next && !closed && !draft" class="why" @submit.prevent="keep">
        <p class="label">Polarity run</p>
        <p class="cell">{{ next }}, red on the {{ side === 'top' ? 'upper' : 'lower' }} pole<template v-if="side === 'bottom'"> as it lies now</template></p>
        <p v-if="side === 'bottom'" class="muted">Turn it back: the run is read from above.</p>
        <template v-else>
          <ElInput ref="field" v-model="read" inputmode="text" :aria-label="`${next} reads, V`" placeholder="3.7 or -3.7" />
          <ElButton type="primary" native-type="submit" :loading="busy">Keep it</ElButton>
        </template>
        <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
      </form>
      <section v-if="block.strips && (tab === 'map' || tab === 'strips')" class="why">
        <p class="label">The strips</p>
        <p>{{ block.strips.because }}</p>
        <p v-if="block.strips.mend">Least change: {{ block.strips.mend }}</p>
      </section>
      <section v-if="tab === 'map'" class="why"><p class="label">Mind of the map</p><p v-for="line in block.map.findings" :key="line">{{ line }}</p></section>
      <Caution title="Bare strip is live">A can is minus right up to its shoulder: a ring on every plus end. Nothing metal on hands or wrists.</Caution>
      <a v-if="tab === 'strips'" :href="`/api/jobs/${job.facts.id}/block.cir`" download class="leads">The network as a netlist, to check</a>
      <a v-if="tab === 'down' || tab === 'up' || tab === 'wiring'" :href="`/api/jobs/${job.facts.id}/joining.pdf`" target="_blank" class="leads">Work list and wiring to print</a>
      <RouterLink v-if="tab === 'wiring'" :to="`/jobs/${job.facts.id}/leads`" class="leads">Read the pins one by one in Leads</RouterLink>
      <StageButton v-if="!job.assessment.frozen && !block.stop && block.up.next === null" to="level">Level the groups</StageButton>
      <StageButton v-else-if="!job.assessment.frozen" to="level" quiet>On to Level</StageButton>
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

.chips {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}

.stop {
  border-left: 4px solid var(--copper);
  padding-left: 10px;
}

.cell {
  font-size: 20px;
  font-weight: 650;
}
</style>
