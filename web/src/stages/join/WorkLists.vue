<script setup lang="ts">
import { computed, ref, toRef } from 'vue'
import type { Schemas } from '@/api/client'
import BlockMap from '@/figures/BlockMap.vue'
import { useJob } from '@/composables/useJob'
import { type Block, useKeepBlock } from './useBlock'
import WorkSteps from './WorkSteps.vue'
import Choice from '@/forms/Choice.vue'

/** What is done to the block, its list from the map, and where on the map the next step is. */
const props = defineProps<{ block: Block; side: 'top' | 'bottom'; closed: boolean; series: number }>()
const WORK: Record<NonNullable<Schemas['NewBlock']['work']>, string> = {
  rebuild: 'rebuild the block', groups: 'replace groups', donor: 'put donor cells in', drop_group: 'leave a group out', transplant: 'move to another board', repin: 'pin the connector anew', board_mounted: 'cells on a board', apart_for_good: 'take it apart for good',
}
const job = useJob()
const { keep, busy, refusal } = useKeepBlock(toRef(props, 'block'))
const begun = ref<string | null>(null)
// The first list that is not done, unless another is chosen.
const list = computed(() => props.block.lists.find((l) => l.name === begun.value) ?? props.block.lists.find((l) => l.next !== null) ?? props.block.lists.at(-1) ?? null)
const step = computed(() => list.value?.steps.find((s) => s.key === list.value!.next) ?? null)
const cells = computed(() => (props.side === 'top' ? props.block.map.cells : props.block.below))
const links = computed(() => props.block.map.links.filter((l) => step.value?.taps?.includes(l.tap)))
const onSide = (l: Schemas['Link']) => (l.faces?.length ? l.faces.some((f) => (f.side ?? props.side) === props.side) : l.side === props.side)
const marked = computed(() => [...(step.value?.cells ?? []), ...links.value.filter(onSide).flatMap((l) => l.cells)])
// The layer of what the step is about.
const layer = computed(() => cells.value.find((c) => marked.value.includes(c.cell))?.layer ?? 1)
// A strip on the side that is down is not to be looked for on the side that is up.
const otherSide = computed(() => {
  const strip = step.value?.strip && links.value.length === 1 ? links.value[0]! : null
  return strip && !onSide(strip) ? `Its strip lies on the ${strip.side === 'top' ? 'upper' : 'lower'} side: turn the block over (f).` : null
})
const wantsGroups = computed(() => ['groups', 'donor', 'drop_group', 'board_mounted'].includes(props.block.work))
const groups = computed(() => new Set(props.block.work_groups))
function toggle(group: number) {
  const held = new Set(groups.value)
  if (!held.delete(group)) held.add(group)
  void keep({ work: props.block.work, work_groups: props.block.work === 'drop_group' ? [group] : [...held].sort((a, b) => a - b) })
}
</script>

<template>
  <section class="lists">
    <details class="what">
      <summary>To do: {{ WORK[block.work] }}<template v-if="wantsGroups && block.work_groups.length">, group {{ block.work_groups.join(', ') }}</template></summary>
      <Choice label="What is done to the block" :options="WORK" :chosen="(key) => block.work === key" :disabled="closed || busy" @choose="(key) => keep({ work: key })" />
      <div v-if="wantsGroups" class="chips" role="group" aria-label="Groups"><span>Group</span><button v-for="g in series" :key="g" type="button" class="chip" :disabled="closed || busy" :aria-pressed="groups.has(g)" @click="toggle(g)">{{ g }}</button></div>
    </details>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
    <p v-if="block.lists_stop" :class="job.now.left_out.length ? 'muted' : 'error'" role="status">{{ job.now.left_out.length ? block.lists_stop : `There is no list yet: ${block.lists_stop}.` }}</p>
    <div v-if="block.lists.length > 1" class="chips" role="group" aria-label="Lists"><button v-for="l in block.lists" :key="l.name" type="button" class="chip" :aria-pressed="l === list" @click="begun = l.name">{{ l.title }}{{ l.next === null ? ', done' : '' }}</button></div>
    <template v-if="list">
      <BlockMap class="small" :layer="layer" :length="block.map.cell_mm" :cells="cells" :links="block.map.links" :side="side" :diameter="block.entered.diameter_mm" :segments="block.strips?.segments ?? []" :marked="marked" still />
      <WorkSteps :key="list.name" :work="list" :lists="block.lists" :closed="closed" :other-side="otherSide" :too-thin="block.strips && !block.strips.enough ? block.strips.because : null" />
    </template>
  </section>
</template>

<style scoped>
.lists {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
}

.what .chips {
  margin-bottom: 8px;
}

.small {
  max-height: 150px;
}
</style>
