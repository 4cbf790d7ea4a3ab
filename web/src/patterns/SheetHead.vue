<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Refusal } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import FieldRow from '@/bench/FieldRow.vue'
import Choice from '@/forms/Choice.vue'
import NumberField from '@/forms/NumberField.vue'
import TextField from '@/forms/TextField.vue'
import { sent } from '@/forms/quantity'
import { HAS, HAS_NOT, type Has, KINDS } from '@/stages/take-in/draft'
import type { Sheet } from './usePatterns'

/** What a pattern is called, what its label says, and what such a pack has. */
const props = defineProps<{ sheet: Sheet; working: boolean; refusal: Refusal | null }>()
const emit = defineEmits<{ change: [part: Partial<Sheet>] }>()
const { data: terms } = useTermsQuery()
const chemistry = computed(() => terms.value?.chemistries.find((c) => c.key === props.sheet.pack.chemistry)?.name ?? '')
const volts = ref(props.sheet.label.volts ? String(props.sheet.label.volts) : '')
const ah = ref(props.sheet.label.ah ? String(props.sheet.label.ah) : '')
const rated = ref(String(props.sheet.pack.rated_ah))
const load = ref(props.sheet.pack.load_a ? String(props.sheet.pack.load_a) : '')
const taps = ref(props.sheet.outside_taps.join(', '))
const tags = ref(props.sheet.tags.join(', '))
const on = (name: string) => props.refusal?.on(`sheet.${name}`)
const label = (change: Partial<Sheet['label']>) => emit('change', { label: { ...props.sheet.label, ...change } })
const pack = (change: Partial<Sheet['pack']>) => emit('change', { pack: { ...props.sheet.pack, ...change } })
const has = (key: Has) => emit('change', { [key]: props.sheet[key] === null ? true : props.sheet[key] ? false : null })
const labelSays = computed(() => props.sheet.label.lines || [props.sheet.label.volts && `${props.sheet.label.volts} V`, props.sheet.label.ah && `${props.sheet.label.ah} Ah`].filter(Boolean).join(' '))
const summary = computed(() => [
  chemistry.value.charAt(0).toUpperCase() + chemistry.value.slice(1),
  labelSays.value && `Label: ${labelSays.value}`,
  props.sheet.pack.load_a && `Its device draws ${props.sheet.pack.load_a} A`,
  (Object.entries(HAS) as [Has, string][]).flatMap(([key, words]) => (props.sheet[key] === null ? [] : [props.sheet[key] ? words : HAS_NOT[key]])).join(', ').replace(/^./, (c) => `It has ${c}`),
  props.sheet.outside_taps.length && `Taps ${props.sheet.outside_taps.join(', ')} come outside`,
].filter(Boolean).join('. '))
</script>

<template>
  <header class="head">
    <template v-if="!working">
      <h1>{{ sheet.title }}</h1>
      <p>{{ summary }}.</p>
      <p v-if="sheet.tags.length" class="muted">Found by: {{ sheet.tags.join(', ') }}</p>
    </template>
    <div v-else class="fields">
      <TextField :model-value="sheet.title" label="Title, free of makes" maxlength="80" class="wide" :error="on('title')" @update:model-value="emit('change', { title: $event ?? '' })" />
      <TextField v-model="tags" label="Found by, with commas between" maxlength="400" class="wide" :error="on('tags')" @change="emit('change', { tags: tags.split(/[,;]+/).map((t) => t.trim()).filter(Boolean) })" />
      <TextField :model-value="sheet.label.lines" label="The label’s own words, free of makes" maxlength="400" class="wide" @update:model-value="label({ lines: $event ?? '' })" />
      <NumberField v-model="volts" label="Volts on its label" unit="V" bare :error="on('label.volts')" @change="label({ volts: sent(volts, 'V') })" />
      <NumberField v-model="ah" label="Capacity on its label" unit="Ah" :error="on('label.ah')" @change="label({ ah: sent(ah, 'Ah') })" />
      <NumberField v-model="rated" label="Rated, a group" unit="Ah" :error="on('pack.rated_ah')" @change="pack({ rated_ah: sent(rated, 'Ah') as number })" />
      <NumberField v-model="load" label="Its device draws" unit="A" :error="on('pack.load_a')" @change="pack({ load_a: sent(load, 'A') })" />
      <NumberField v-model="taps" many whole label="Taps that can be touched without opening" class="wide" :error="on('outside_taps')" @change="emit('change', { outside_taps: taps.split(/[\s,;]+/).filter(Boolean).map((t) => sent(t) as number) })" />
      <FieldRow label="What it is for" group class="wide"><Choice label="What it is for" :options="KINDS" :chosen="(key) => sheet.kind === key" @choose="(key) => emit('change', { kind: key })" /></FieldRow>
      <FieldRow label="It has" group class="wide"><div class="chips"><button v-for="(words, key) in HAS" :key="key" type="button" class="chip" :aria-pressed="sheet[key] !== null" @click="has(key)">{{ sheet[key] === false ? HAS_NOT[key] : words }}</button></div></FieldRow>
      <TextField :model-value="sheet.provenance" label="Where this is from" maxlength="400" class="wide" @update:model-value="emit('change', { provenance: $event ?? '' })" />
      <TextField :model-value="sheet.licence" label="On which terms it is handed on" maxlength="120" class="wide" @update:model-value="emit('change', { licence: $event ?? '' })" />
    </div>
  </header>
</template>

<style scoped>
.head {
  display: grid;
  gap: 6px;
}

.fields {
  display: grid;
  gap: 10px 16px;
  grid-template-columns: repeat(4, minmax(0, 1fr));
}

.wide {
  grid-column: 1 / -1;
}

@media (max-width: 700px) {
  .fields {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
