<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import NumberField from '@/forms/NumberField.vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import FieldRow from '@/bench/FieldRow.vue'
import { clock, day } from '@/composables/format'
import { quantity, sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import MethodFields from './MethodFields.vue'
import type { Block } from './useBlock'

/** Coupons of one recipe: weld where it says, tear, log what was seen; within ten the setting is known. */
const OUTCOMES: Record<Schemas['NewCoupon']['outcome'], string> = { no_bond: 'no bond', weak: 'weak, it peels', good: 'good, a button tears out', burnt: 'burnt' }
const props = defineProps<{ block: Block; closed: boolean }>()
const cache = useQueryClient()
const { act, busy, refusal } = useAct()
const { data: recipes } = useQuery({ queryKey: ['welds'], queryFn: () => settled(client.GET('/api/welds')) })
const of = ref({ welder: '', strip: '', on: '' })
const text = ref({ setting: '', lowest: '2', highest: '40', pull: '' })
const named = ref(false)
watch(recipes, (all) => { if (!named.value) of.value = { ...(props.block.told.method.recipe ?? all?.[0]?.recipe ?? of.value) } }, { immediate: true })
const now = computed(() => recipes.value?.find((r) => r.recipe.welder === of.value.welder && r.recipe.strip === of.value.strip && r.recipe.on === of.value.on) ?? null)
watch(now, (r) => {
  if (!r) return
  text.value = { ...text.value, lowest: String(r.lowest), highest: String(r.highest), setting: (r.window.next_coupon ?? r.window.use)?.toPrecision(3) ?? '' }
}, { immediate: true })
const today = computed(() => now.value && new Date(now.value.last_at).toDateString() === new Date().toDateString())
async function log(outcome: Schemas['NewCoupon']['outcome']) {
  const t = text.value
  const body = { recipe: of.value, setting: sent(t.setting, 'J'), lowest: sent(t.lowest, 'J'), highest: sent(t.highest, 'J'), outcome, pull_n: sent(t.pull, 'N') } as Schemas['NewCoupon']
  const found = await act(() => settled(client.POST('/api/welds', { body })))
  if (!found) return
  named.value = true
  cache.setQueryData(['welds'], found)
  text.value.pull = ''
}
const low = computed(() => quantity(text.value.lowest, 'J') || 1)
const high = computed(() => quantity(text.value.highest, 'J') || 2)
const x = (setting: number) => 10 + 580 * (Math.log(setting / low.value) / Math.log(high.value / low.value))
const Y: Record<Schemas['NewCoupon']['outcome'], number> = { burnt: 16, good: 38, weak: 60, no_bond: 82 }
</script>

<template>
  <section class="lab">
    <MethodFields :block="block" :closed="closed" :recipes="recipes ?? []" :shown="of.welder ? of : null" @show="(r) => { of = { ...r }; named = true }" />
    <template v-if="now">
      <p class="use">{{ now.window.use === null ? 'No setting yet' : 'Set the welder to' }} <span v-if="now.window.use !== null" class="figure">{{ Number(now.window.use.toPrecision(3)) }}</span></p>
      <p>{{ now.window.because }}</p>
      <p v-if="now.window.use !== null && !today" class="wants">One <TermWord of="coupon">coupon</TermWord> today before the first weld: the last is of {{ day(now.last_at) }} {{ clock(now.last_at) }}.</p>
      <svg viewBox="0 0 600 100" class="coupons" role="img" aria-label="Coupons by setting">
        <rect v-if="now.window.window" class="window" :x="x(now.window.window.low)" y="2" :width="x(now.window.window.high) - x(now.window.window.low)" height="92" />
        <g v-for="(y, key) in Y" :key="key"><line x1="10" x2="590" :y1="y" :y2="y" /><text x="590" :y="y - 3" text-anchor="end">{{ key.replace('_', ' ') }}</text></g>
        <path v-for="c in now.coupons" :key="c.id" :d="`M${x(c.setting)} ${Y[c.outcome] - 6}v12`" :class="['coupon', c.outcome]" />
        <path v-if="now.window.next_coupon" :d="`M${x(now.window.next_coupon) - 5} 98l5 -8l5 8z`" class="next" />
      </svg>
    </template>
    <details :open="!now">
      <summary>{{ now ? 'Another welder, strip or cell' : 'Which welder, which strip, on what' }}</summary>
    <div class="row">
      <FieldRow label="Welder" :error="refusal?.on('recipe.welder')"><template #default="{ id }"><ElInput :id="id" v-model="of.welder" maxlength="60" @input="named = true" /></template></FieldRow>
      <FieldRow label="Strip" :error="refusal?.on('recipe.strip')"><template #default="{ id }"><ElInput :id="id" v-model="of.strip" maxlength="60" placeholder="nickel 8 × 0.15, 1 layer" @input="named = true" /></template></FieldRow>
      <FieldRow label="On" :error="refusal?.on('recipe.on')"><template #default="{ id }"><ElInput :id="id" v-model="of.on" maxlength="60" placeholder="18650, dead cell" @input="named = true" /></template></FieldRow>
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
  font-size: 9px;
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
