<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Refusal } from '@/api/client'
import { useShortcuts } from '@/composables/useShortcuts'
import BlockMap from '@/figures/BlockMap.vue'
import KeptField from '@/forms/KeptField.vue'
import type { Block } from './useBlock'
import type { useMapDraft } from './useMapDraft'

/** The cells placed one by one as the old pack shows them, from the side that is looked at. */
const props = defineProps<{ map: ReturnType<typeof useMapDraft>; block: Block; series: number; busy: boolean; refusal: Refusal | null }>()
const { draft, lookedFrom, at, around } = props.map
const pitch = computed(() => props.block.entered.pitch_mm ?? (props.block.entered.diameter_mm ?? 18.4) + 1.8)
const cell = computed(() => draft.value?.find((c) => c.cell === at.value) ?? null)
const layer = computed(() => cell.value?.layer ?? 1)
const layers = computed(() => Math.max(...(draft.value ?? []).map((c) => c.layer ?? 1), 1))
const firstOf = (n: number) => draft.value?.find((c) => (c.layer ?? 1) === n)?.cell ?? null
const LIES = { standing: 'stands', across: 'lies across', along: 'lies along' } as const
/** Taps as they are typed, "3, 5"; what is no tap of this pack is told and not kept. */
const aroundText = computed(() => around.value.join(', '))
const aroundWrong = ref<string | null>(null)
function keepAround(text: string) {
  const typed = text.split(/[\s,;]+/).filter(Boolean)
  const odd = typed.find((t) => !/^\d+$/.test(t) || Number(t) > props.series)
  aroundWrong.value = odd === undefined ? null : `“${odd}” is no tap; type taps from 0 to ${props.series}, as in 3, 5`
  if (aroundWrong.value === null) around.value = [...new Set(typed.map(Number))].sort((a, b) => a - b)
}
const STEP = 1
useShortcuts([
  { key: 'ArrowLeft', does: 'the cell a millimetre to the left', run: () => props.map.move(-STEP, 0) },
  { key: 'ArrowRight', does: 'to the right', run: () => props.map.move(STEP, 0) },
  { key: 'ArrowUp', does: 'up', run: () => props.map.move(0, -STEP) },
  { key: 'ArrowDown', does: 'down', run: () => props.map.move(0, STEP) },
  { key: 'x', does: 'turn the cell over', run: () => props.map.turn() },
  { key: 'l', does: 'stand it, lay it across, lay it along', run: () => props.map.lay() },
  { key: '+', does: 'into the layer above', run: () => props.map.relayer(1) },
  { key: '-', does: 'into the layer below', run: () => props.map.relayer(-1) },
  { key: ']', does: 'into the next group', run: () => props.map.regroup(1, props.series) },
  { key: '[', does: 'into the group before', run: () => props.map.regroup(-1, props.series) },
])
</script>

<template>
  <section class="hand">
    <BlockMap :cells="draft ?? []" :links="[]" :side="lookedFrom" :diameter="block.entered.diameter_mm" :layer="layer" :length="block.map.cell_mm" :chosen="at" @choose="at = $event" />
    <div class="chips" role="group" aria-label="Looked at"><span>You look at it</span><button type="button" class="chip" :aria-pressed="lookedFrom === 'top'" @click="map.lookFrom('top')">from above</button><button type="button" class="chip" :aria-pressed="lookedFrom === 'bottom'" @click="map.lookFrom('bottom')">from below, it lies upside down</button></div>
    <div v-if="layers > 1" class="chips" role="group" aria-label="Layer"><button v-for="n in layers" :key="n" type="button" class="chip" :aria-pressed="n === layer" :disabled="firstOf(n) === null" @click="at = firstOf(n)">layer {{ n }}</button></div>
    <div class="chips" role="group" aria-label="The chosen cell">
      <strong>{{ at }}, {{ LIES[cell?.lies ?? 'standing'] }}, layer {{ layer }}</strong>
      <ElButton @click="map.turn()">Turn it over <kbd>x</kbd></ElButton><ElButton @click="map.lay()">Lay it <kbd>l</kbd></ElButton><ElButton @click="map.relayer(1)">Layer above <kbd>+</kbd></ElButton><ElButton @click="map.relayer(-1)">Layer below <kbd>-</kbd></ElButton>
      <ElButton @click="map.regroup(-1, series)">Group before <kbd>[</kbd></ElButton><ElButton @click="map.regroup(1, series)">Next group <kbd>]</kbd></ElButton>
      <ElButton @click="map.move(-pitch, 0)">A place left</ElButton><ElButton @click="map.move(pitch, 0)">right</ElButton><ElButton @click="map.move(0, -pitch)">up</ElButton><ElButton @click="map.move(0, pitch)">down</ElButton>
    </div>
    <div v-if="cell" class="row">
      <KeptField :key="`${at}x`" :value="String(cell.x_mm)" label="Right, mm" unit="mm" inputmode="decimal" @keep="(t) => map.put('x_mm', t, series)" />
      <KeptField :key="`${at}y`" :value="String(cell.y_mm)" label="Down, mm" unit="mm" inputmode="decimal" @keep="(t) => map.put('y_mm', t, series)" />
      <KeptField :key="`${at}g`" :value="String(cell.group)" label="Group" number whole inputmode="numeric" @keep="(t) => map.put('group', t, series)" />
      <KeptField :value="aroundText" label="Strips around a side, taps" placeholder="none" :error="aroundWrong" @keep="keepAround" />
    </div>
    <p class="muted">Touch a cell, then set it as the old pack shows it: arrows move it by a millimetre. The program mirrors by itself what was seen from below. A cell above others, as in a stem, goes into the layer above, with the pole up that is up as it stands.</p>
    <div class="chips"><ElButton type="primary" :loading="busy" @click="map.keep()">Save this map</ElButton><ElButton @click="map.leave()">Discard the changes</ElButton></div>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.hand {
  display: grid;
  gap: 14px;
  grid-template-columns: minmax(0, 1fr);
}

.row {
  display: grid;
  gap: 8px 12px;
  grid-template-columns: repeat(auto-fill, minmax(110px, 1fr));
}
</style>
