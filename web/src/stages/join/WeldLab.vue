<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import NumberField from '@/forms/NumberField.vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { clock, day } from '@/composables/format'
import { quantity, sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import MethodFields from './MethodFields.vue'
import type { Block } from './useBlock'
import TextField from '@/forms/TextField.vue'

/** Coupons of one recipe: weld where it says, tear, log what was seen; within ten the setting is known. */
const OUTCOMES: Record<Schemas['NewCoupon']['outcome'], string> = { no_bond: 'no bond', weak: 'weak, it peels', good: 'good, a button tears out', burnt: 'burnt' }
const props = defineProps<{ block: Block; closed: boolean }>()
const cache = useQueryClient()
const { act, busy, refusal } = useAct()
const { data: recipes } = useQuery({ queryKey: ['welds'], queryFn: () => settled(client.GET('/api/welds')) })
const recipe = ref({ welder: '', strip: '', on: '' })
const text = ref({ setting: '', lowest: '2', highest: '40', pull: '' })
const named = ref(false)
watch(recipes, (all) => { if (!named.value) recipe.value = { ...(props.block.entered.method.recipe ?? all?.[0]?.recipe ?? recipe.value) } }, { immediate: true })
const now = computed(() => recipes.value?.find((r) => r.recipe.welder === recipe.value.welder && r.recipe.strip === recipe.value.strip && r.recipe.on === recipe.value.on) ?? null)
watch(now, (r) => {
  if (!r) return
  text.value = { ...text.value, lowest: String(r.lowest), highest: String(r.highest), setting: (r.window.next_coupon ?? r.window.use)?.toPrecision(3) ?? '' }
}, { immediate: true })
const today = computed(() => now.value && new Date(now.value.last_at).toDateString() === new Date().toDateString())
async function log(outcome: Schemas['NewCoupon']['outcome']) {
  const t = text.value
  const body = { recipe: recipe.value, setting: sent(t.setting, 'J'), lowest: sent(t.lowest, 'J'), highest: sent(t.highest, 'J'), outcome, pull_n: sent(t.pull, 'N') } as Schemas['NewCoupon']
  const found = await act(() => settled(client.POST('/api/welds', { body })))
  if (!found) return
  named.value = true
  cache.setQueryData(['welds'], found)
  text.value.pull = ''
}
// Before the first coupon the chart shows what is known of any weld: that there is a window somewhere.
const range = computed(() => ({ lowest: sent(text.value.lowest, 'J'), highest: sent(text.value.highest, 'J') }))
const { data: unknown } = useQuery({
  queryKey: computed(() => ['weld-window', range.value]),
  queryFn: () => settled(client.POST('/api/compute/weld-window', { body: { coupons: [], ...range.value } as Schemas['WeldRequest'] })),
  enabled: computed(() => !now.value),
  retry: false,
})
const win = computed(() => now.value?.window ?? unknown.value ?? null)
const TICKS = [1, 2, 3, 5, 10, 15, 20, 30, 50, 100, 200, 500, 1000]
const ticks = computed(() => TICKS.filter((t) => t >= low.value && t <= high.value))
const CHANCE = { top: 122, bottom: 192 }
const up = (chance: number) => CHANCE.bottom - (CHANCE.bottom - CHANCE.top) * chance
const area = computed(() => (win.value?.curve?.length ? `M${x(low.value)} ${CHANCE.bottom}${win.value.curve.map((p) => `L${x(p.setting)} ${up(p.chance)}`).join('')}L${x(high.value)} ${CHANCE.bottom}Z` : ''))
const low = computed(() => quantity(text.value.lowest, 'J') || 1)
const high = computed(() => quantity(text.value.highest, 'J') || 2)
const x = (setting: number) => 10 + 520 * (Math.log(setting / low.value) / Math.log(high.value / low.value))
const Y: Record<Schemas['NewCoupon']['outcome'], number> = { burnt: 22, good: 46, weak: 70, no_bond: 94 }
</script>

<template>
  <section class="lab">
    <MethodFields :block="block" :closed="closed" :recipes="recipes ?? []" :shown="recipe.welder ? recipe : null" @show="(r) => { recipe = { ...r }; named = true }" />
    <template v-if="now">
      <p class="use">{{ now.window.use === null ? 'No setting yet' : 'Set the welder to' }} <span v-if="now.window.use !== null" class="figure">{{ Number(now.window.use.toPrecision(3)) }}</span></p>
      <p>{{ now.window.because }}</p>
      <p v-if="now.window.use !== null && !today" class="wants">One <TermWord of="coupon">coupon</TermWord> today before the first weld: the last is of {{ day(now.last_at) }} {{ clock(now.last_at) }}.</p>
    </template>
    <p v-else>No coupon of this recipe yet. The curve shows how likely a weld is good at each setting; every coupon sharpens it.</p>
    <svg v-if="win" viewBox="0 0 600 222" class="coupons" role="img" aria-label="Coupons by setting, and the chance of a good weld">
      <rect v-if="win.window" class="window" :x="x(win.window.low)" y="6" :width="x(win.window.high) - x(win.window.low)" :height="CHANCE.bottom - 6" />
      <g v-for="(y, key) in Y" :key="key"><line x1="10" x2="530" :y1="y" :y2="y" /><text x="538" :y="y + 4">{{ key.replace('_', ' ') }}</text></g>
      <path v-for="c in now?.coupons ?? []" :key="c.id" :d="`M${x(c.setting)} ${Y[c.outcome] - 7}v14`" :class="['coupon', c.outcome]" />
      <path :d="area" class="chance" />
      <line x1="10" x2="530" :y1="up(0.95)" :y2="up(0.95)" class="wanted" /><text x="538" :y="up(0.95) + 4">95 %</text>
      <text x="538" :y="CHANCE.bottom - 12">chance</text><text x="538" :y="CHANCE.bottom + 2">good</text>
      <g v-for="t in ticks" :key="t"><line :x1="x(t)" :x2="x(t)" :y1="CHANCE.bottom" :y2="CHANCE.bottom + 5" class="tick" /><text :x="x(t)" :y="CHANCE.bottom + 19" text-anchor="middle">{{ t }}</text></g>
      <template v-if="win.next_coupon"><path :d="`M${x(win.next_coupon) - 6} ${CHANCE.top - 5}l6 -9l6 9z`" class="next" /><text :x="x(win.next_coupon)" :y="CHANCE.top - 3" text-anchor="middle" dx="30" class="nexts">next</text></template>
    </svg>
    <details :open="!now">
      <summary>{{ now ? 'Another welder, strip or cell' : 'Which welder, which strip, on what' }}</summary>
      <div class="row">
        <TextField v-model="recipe.welder" label="Welder" :error="refusal?.on('recipe.welder')" maxlength="60" @input="named = true" />
        <TextField v-model="recipe.strip" label="Strip" :error="refusal?.on('recipe.strip')" maxlength="60" placeholder="nickel 8 × 0.15, 1 layer" @input="named = true" />
        <TextField v-model="recipe.on" label="On" :error="refusal?.on('recipe.on')" maxlength="60" placeholder="18650, dead cell" @input="named = true" />
        <NumberField v-model="text.lowest" label="Lowest setting" bare unit="J" :error="refusal?.on('lowest')" />
        <NumberField v-model="text.highest" label="Highest" bare unit="J" :error="refusal?.on('highest')" />
      </div>
    </details>
    <div class="row">
      <NumberField v-model="text.setting" label="Coupon at" bare unit="J" :error="refusal?.on('setting')" />
      <NumberField v-model="text.pull" label="Pull" unit="N" :error="refusal?.on('pull_n')" placeholder="if measured" />
    </div>
    <div class="chips" role="group" aria-label="It was"><ElButton v-for="(words, key) in OUTCOMES" :key="key" :loading="busy" @click="log(key)">{{ words }}</ElButton></div>
    <p v-if="refusal && !['recipe.welder', 'recipe.strip', 'recipe.on', 'setting', 'pull_n', 'lowest', 'highest'].some((f) => refusal!.on(f))" class="error" role="alert">{{ refusal.message }}</p>
    <p class="muted">On a dead cell or on strip, eyes covered. Solder instead only pre-tinned, with a big tip, two seconds a joint and a pause; never on pouch tabs of aluminium: solder does not wet them, and the heat opens the pouch.</p>
  </section>
</template>

<style scoped>
.lab {
  display: grid;
  gap: 10px;
}

.row {
  display: grid;
  gap: 8px 12px;
  grid-template-columns: repeat(auto-fill, minmax(130px, 1fr));
}

.use {
  align-items: baseline;
  display: flex;
  gap: 12px;
}

.use .figure {
  font-size: 34px;
}

.wants {
  border-left: 4px solid var(--copper);
  padding-left: 10px;
}

.coupons {
  background: var(--sheet);
  width: 100%;
}

.coupons line {
  stroke: var(--rule-soft);
}

.coupons text {
  fill: var(--muted);
  font-size: 13px;
}

.coupons .wanted {
  stroke: var(--muted);
  stroke-dasharray: 4 3;
}

.coupons .tick {
  stroke: var(--muted);
}

.chance {
  fill: color-mix(in srgb, var(--petrol) 26%, transparent);
  stroke: var(--petrol);
  stroke-width: 1.5;
}

.coupons .nexts {
  fill: var(--copper);
}

.window {
  fill: color-mix(in srgb, var(--petrol) 14%, transparent);
}

.coupon {
  stroke: var(--ink);
  stroke-width: 3;
}

.burnt {
  stroke: var(--hazard);
}

.good {
  stroke: var(--petrol);
}

.next {
  fill: var(--copper);
}
</style>
