<script setup lang="ts">
import { computed, toRef } from 'vue'
import { degrees } from '@/composables/degrees'
import type { Schemas } from '@/api/client'
import BlockMap from '@/figures/BlockMap.vue'
import IsItNickel from './IsItNickel.vue'
import { type Block, useKeepBlock } from './useBlock'

/** The strips as a network under the load: the figure, and the usual ways of making them side by side. */
const props = defineProps<{ block: Block; cells: Schemas['MappedCell'][]; side: 'top' | 'bottom'; layer: number; closed: boolean }>()
const emit = defineEmits<{ turn: []; layer: [number] }>()
const { keep, busy, refusal } = useKeepBlock(toRef(props, 'block'))
const shares = computed(() => Object.fromEntries((props.block.strips?.cells ?? []).map((c) => [c.cell, c.share])))
// Where every cell carries the whole current, none is hardest.
const shared = computed(() => props.block.choices.some((c) => c.largest_share > 1.005))
// What the school by amperes says: the careful allow it, only the bold do, or none does.
const SCHOOL = { inside: '≤', between: 'in', above: '>' } as const
type Choice = Schemas['StripChoice']
const take = (c: Choice) => keep((entered) => ({ strip: { ...entered.strip, material: c.material as Schemas['Strip']['material'], layers: c.layers, thickness_mm: c.thickness_mm, take_off: c.take_off as Schemas['Strip']['take_off'] } }))
</script>

<template>
  <div v-if="block.map.layers.length > 1" class="chips" role="group" aria-label="Layer in hand"><button v-for="n in block.map.layers.length" :key="n" type="button" class="chip" :aria-pressed="n === layer" @click="emit('layer', n)">layer {{ n }}</button></div>
  <BlockMap class="shorter" :layer="layer" :length="block.map.cell_mm" :cells="cells" :links="block.map.links" :side="side" :diameter="block.entered.diameter_mm" :segments="block.strips?.segments ?? []" :shares="shares" still />
  <p class="muted">Drawn as thick as their current, hatched where they get too warm; each cell shows its share. The last column is the other school, by amperes a strip: so much as the careful and the bold allow.<template v-if="block.cells_c !== null"> In a run of the full pack at {{ block.load_a }} A the cells themselves reach {{ degrees(block.cells_c, 0) }}.</template> <button type="button" class="linklike" @click="emit('turn')">other side <kbd>f</kbd></button></p>
  <table>
    <thead><tr><th>Strips, at {{ block.load_a }} A</th><th class="number">over the cells, K</th><th v-if="block.peak_a" class="number">at {{ block.peak_a }} A, K</th><th class="number">drop, mV</th><th v-if="shared" class="number">hardest cell</th><th class="number">loss</th><th class="number">A in one strip</th><th><span class="visually-hidden">use it</span></th></tr></thead>
    <tbody><tr v-for="c in block.choices" :key="c.says" :class="{ odd: !c.enough }"><td><strong v-if="c.chosen">{{ c.says }}, as entered</strong><template v-else>{{ c.says }}</template><span v-if="!c.enough">: not enough</span><small v-if="c.how" class="muted how">{{ c.how }}</small></td><td class="number">{{ c.worst_rise_k.toFixed(1) }}</td><td v-if="block.peak_a" class="number">{{ c.peak_rise_k?.toFixed(1) }}</td><td class="number">{{ c.drop_mv.toFixed(0) }}</td><td v-if="shared" class="number">{{ Math.round(c.largest_share * 100) }} %</td><td class="number">{{ c.loss_fraction === null ? '–' : `${(c.loss_fraction * 100).toFixed(1)} %` }}</td><td class="number">{{ c.largest_a.toFixed(0) }} <span class="school" :class="c.school">{{ SCHOOL[c.school] }} {{ c.school_low_a.toFixed(0) }}–{{ c.school_high_a.toFixed(0) }}</span></td><td><button v-if="!c.chosen && !closed" type="button" class="linklike" :disabled="busy" :aria-label="`use it: ${c.says}`" @click="take(c)">use it</button></td></tr></tbody>
  </table>
  <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  <IsItNickel :strip="block.entered.strip" :closed="closed" @found="(material) => keep((entered) => ({ strip: { ...entered.strip, material } }))" />
</template>

<style scoped>
td.number {
  white-space: nowrap;
}

.how {
  display: block;
}

.school {
  color: var(--muted);
  white-space: nowrap;
}

.school.above {
  color: var(--copper);
  font-weight: 650;
}

.shorter {
  max-height: 300px;
}
</style>
