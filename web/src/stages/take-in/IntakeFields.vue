<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, watch } from 'vue'
import { useQuery } from '@tanstack/vue-query'
import { useDebounce } from '@vueuse/core'
import { client, type Refusal, type Schemas, settled } from '@/api/client'
import FieldRow from '@/bench/FieldRow.vue'
import EarlierList from './EarlierList.vue'
import PatternOffer from './PatternOffer.vue'
import { type Draft, HAS, HAS_NOT, type Has, KINDS, labelOf, stringsIn } from './draft'
import TextField from '@/forms/TextField.vue'
import Choice from '@/forms/Choice.vue'

/** Whose pack it is, what it is, and what the customer saw. */
const draft = defineModel<Draft>({ required: true })
const props = defineProps<{ terms: Schemas['Terms']; refusal: Refusal | null; fresh?: boolean; wanted?: number | null }>()

const on = (field: string) => props.refusal?.on(`intake.${field}`) ?? props.refusal?.on(field)
const chosen = computed(() => props.terms.chemistries.find((c) => c.key === draft.value.chemistry))
/** What a label says fills the fields; its volts tell the groups once the chemistry is known. */
function readLabel() {
  Object.assign(draft.value, labelOf(draft.value.label ?? '', chosen.value?.nominal_v ?? null))
}
watch(chosen, () => (draft.value.label ?? '').trim() && !draft.value.series.trim() && readLabel())

// “2 × 4S1P” says how many strings there are, and the field shows it.
watch(() => draft.value.series, (text) => (draft.value.strings = stringsIn(text) ?? draft.value.strings))

const like = useDebounce(computed(() => draft.value.customer.trim()), 150)
const { data: customers } = useQuery({
  queryKey: computed(() => ['customers', like.value]),
  queryFn: () => settled(client.GET('/api/customers', { params: { query: { like: like.value } } })),
  placeholderData: (before) => before,
})
/** Who is known is reached as before, unless something else was typed. */
function reached() {
  const known = customers.value?.find((c) => c.name === draft.value.customer.trim())
  if (known && !(draft.value.contact ?? '').trim()) draft.value.contact = known.contact
}
const serial = useDebounce(computed(() => draft.value.serial.trim()), 250)
// A pack that was here says so before it is taken in; on its job the job itself tells.
const { data: earlier } = useQuery({
  queryKey: computed(() => ['earlier-by-serial', serial.value]),
  queryFn: () => settled(client.GET('/api/earlier', { params: { query: { serial: serial.value } } })),
  enabled: computed(() => props.fresh === true && Boolean(serial.value)),
})
function wish(key: Draft['wishes'][number]) {
  const now = draft.value.wishes ?? []
  draft.value.wishes = now.includes(key) ? now.filter((w) => w !== key) : [...now, key]
}

function has(key: Has) {
  const now = draft.value.has?.[key] ?? null
  draft.value.has = { ...draft.value.has, [key]: now === null ? true : now ? false : null }
}
function toggle(key: Schemas['Intake']['symptoms'][number]) {
  const at = draft.value.symptoms.indexOf(key)
  if (at >= 0) draft.value.symptoms.splice(at, 1)
  else draft.value.symptoms.push(key)
}
</script>

<template>
  <div class="fields">
    <FieldRow label="Customer" :error="on('customer')" class="half">
      <template #default="{ id }"><ElInput :id="id" v-model="draft.customer" maxlength="80" autofocus list="customers" @change="reached" /><datalist id="customers"><option v-for="c in customers ?? []" :key="c.name" :value="c.name"></option></datalist></template>
    </FieldRow>
    <TextField v-model="draft.contact" label="Telephone or e-mail" :error="on('contact')" class="half" maxlength="120" />
    <TextField v-model="draft.pack_name" label="Which pack" :error="on('pack_name')" class="half" maxlength="80" />
    <TextField v-model="draft.serial" label="Serial or tag" :error="on('serial')" class="half" maxlength="60" />
    <EarlierList v-if="earlier?.length" :jobs="earlier" />
    <TextField v-model="draft.label" label="Volts and capacity on its label" maxlength="80" placeholder="18 V 4 Ah, or 5S2P 4000 mAh" class="wide" @change="readLabel" />
    <TextField v-model="draft.contacts" label="Contacts outside" class="quarter" inputmode="numeric" maxlength="4" placeholder="how many" />
    <PatternOffer v-if="fresh" v-model="draft" :wanted="wanted ?? null" />
    <FieldRow label="Chemistry" group :error="on('pack.chemistry')">
      <ElRadioGroup v-model="draft.chemistry" aria-label="Chemistry" class="chemistries">
        <ElRadioButton v-for="c in terms.chemistries" :key="c.key" :value="c.key">{{ c.name }}</ElRadioButton>
      </ElRadioGroup>
      <span v-if="chosen" class="hint">{{ chosen.family === 'lithium' ? `full ${chosen.full_v.toFixed(2)} V, work ends ${chosen.tool_end_v.toFixed(1)} V, never under ${chosen.rest_floor_v.toFixed(1)} V a group` : 'judged under load and by capacity; charge ends on the voltage dip' }}</span>
    </FieldRow>
    <TextField v-model="draft.series" label="In series" :error="on('pack.series')" class="quarter" inputmode="text" placeholder="5, or 5S2P" maxlength="20" />
    <TextField v-model="draft.parallel" label="In parallel" :error="on('pack.parallel')" class="quarter" inputmode="numeric" maxlength="20" />
    <NumberField v-model="draft.rated_ah" label="Rated" unit="Ah" :error="on('pack.rated_ah')" class="quarter" />
    <NumberField v-model="draft.load_a" label="Load, A, if known" bare unit="A" :error="on('pack.load_a')" class="quarter" />
    <NumberField v-model="draft.outside_taps" many whole label="Taps that can be touched without opening, such as 0, 4, 8" :error="on('outside_taps') ?? (refusal?.lines.some((l) => l.field === 'intake') ? refusal.on('intake') : undefined)" placeholder="none" />
    <FieldRow label="What it is for" group :error="on('kind')" class="wide">
      <Choice label="What it is for" :options="KINDS" :chosen="(key) => draft.kind === key" @choose="(key) => (draft.kind = key)" />
    </FieldRow>
    <NumberField v-model="draft.age_years" label="Age" unit="years" :error="on('age_years')" class="quarter" placeholder="not known" />
    <TextField v-model="draft.strings" label="Strings" :error="on('pack.strings')" class="quarter" inputmode="numeric" maxlength="20" placeholder="1" />
    <p v-if="draft.strings?.trim() && draft.strings.trim() !== '1'" class="hint">In series: what one string has. Rated: what the whole pack holds.</p>
    <FieldRow label="It has" group :error="on('has_board')">
      <div class="chips">
        <button v-for="(words, key) in HAS" :key="key" type="button" class="chip" :aria-pressed="draft.has?.[key] !== null && draft.has?.[key] !== undefined" @click="has(key)">{{ draft.has?.[key] === false ? HAS_NOT[key] : words }}</button>
      </div>
      <p class="hint">Not pressed: as is usual for such a pack. Pressed twice: it has none.</p>
    </FieldRow>
    <FieldRow label="What the customer saw" group :error="on('symptoms')">
      <div class="chips">
        <button v-for="{ key, words } in terms.symptoms" :key="key" type="button" class="chip" :aria-pressed="draft.symptoms.includes(key)" @click="toggle(key)">{{ words }}</button>
      </div>
    </FieldRow>
    <FieldRow label="What the customer asks for" group :error="on('wishes')">
      <div class="chips">
        <button v-for="w in terms.wishes" :key="w.key" type="button" class="chip" :aria-pressed="(draft.wishes ?? []).includes(w.key)" @click="wish(w.key)">{{ w.words }}</button>
      </div>
      <p v-for="w in terms.wishes.filter((w) => (draft.wishes ?? []).includes(w.key))" :key="w.key" class="answer">{{ w.answer }}</p>
    </FieldRow>
    <TextField v-model="draft.note" label="In their own words" :error="on('note')" type="textarea" :rows="2" maxlength="2000" />
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 10px 18px;
  grid-template-columns: repeat(4, minmax(0, 1fr));
}

.fields > * {
  grid-column: 1 / -1;
}

.fields > .half {
  grid-column: span 2;
}

.fields > .wide {
  grid-column: span 3;
}

.fields > .quarter {
  grid-column: span 1;
}

.chemistries {
  gap: 6px;
}

.chemistries :deep(.el-radio-button__inner) {
  border: 1px solid var(--muted);
  box-shadow: none;
  font-size: 15px;
  padding: 13px 10px;
}

.answer {
  border-left: 4px solid var(--copper);
  margin: 6px 0 0;
  padding-left: 10px;
}

.hint {
  color: var(--muted);
  font-size: 14px;
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
