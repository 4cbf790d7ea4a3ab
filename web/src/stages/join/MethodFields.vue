<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref, toRef, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { sent } from '@/forms/quantity'
import { type Block, useKeepBlock } from './useBlock'
import Choice from '@/forms/Choice.vue'

/** How this block's strips are joined to its cells: welded by a recipe of the lab, or soldered within its limits. */
const props = defineProps<{ block: Block; closed: boolean; recipes: Schemas['RecipeNow'][]; shown: Schemas['Recipe'] | null }>()
const emit = defineEmits<{ show: [Schemas['Recipe']] }>()
const { keep, busy, refusal } = useKeepBlock(toRef(props, 'block'))
const TABS: Record<Schemas['Method']['tabs'], string> = { steel: 'steel cans', nickel: 'nickel tabs', plated: 'plated tabs', copper: 'copper tabs', aluminium: 'aluminium tabs' }
const method = computed(() => props.block.entered.method)
const same = (a: Schemas['Recipe'] | null | undefined, b: Schemas['Recipe']) => Boolean(a && a.welder === b.welder && a.strip === b.strip && a.on === b.on)
const change = (part: Partial<Schemas['Method']>) => keep((entered) => ({ method: { ...entered.method!, ...part } }))
const watts = ref('')
watch(() => method.value.iron_w, (w) => (watts.value = w ? String(w) : ''), { immediate: true })
</script>

<template>
  <section class="method">
    <div class="chips" role="group" aria-label="This block is"><span>This block is</span><button v-for="by in (['weld', 'solder'] as const)" :key="by" type="button" class="chip" :disabled="closed || busy" :aria-pressed="method.by === by" @click="change({ by })">{{ by }}ed</button></div>
    <div v-if="method.by === 'weld'" class="chips" role="group" aria-label="Recipes"><button v-for="r in recipes" :key="r.recipe.welder + r.recipe.strip + r.recipe.on" type="button" class="chip" :aria-pressed="same(shown, r.recipe)" @click="emit('show', r.recipe)">{{ r.recipe.strip }} on {{ r.recipe.on }}{{ same(method.recipe, r.recipe) ? ', this block' : '' }}</button><ElButton v-if="shown && !same(method.recipe, shown) && recipes.some((r) => same(shown, r.recipe))" type="primary" :disabled="closed" :loading="busy" @click="change({ recipe: shown })">Weld this block so</ElButton></div>
    <Choice v-else label="Tabs" :options="TABS" :chosen="(key) => method.tabs === key" :disabled="closed || busy" @choose="(key) => change({ tabs: key })">
      <NumberField v-model="watts" label="Iron" unit="W" :error="refusal?.on('method.iron_w')" :disabled="closed" @change="change({ iron_w: sent(watts, 'W') })" />
      <button type="button" class="chip" :disabled="closed || busy" :aria-pressed="method.big_tip" @click="change({ big_tip: !method.big_tip })">big tip</button>
    </Choice>
    <p v-for="line in block.method_says" :key="line">{{ line }}</p>
    <p v-if="refusal && !refusal.on('method.iron_w')" class="error" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.method {
  border-bottom: 1px solid var(--rule);
  display: grid;
  gap: 8px;
  padding-bottom: 12px;
}
</style>
