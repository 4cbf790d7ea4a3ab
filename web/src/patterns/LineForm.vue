<script setup lang="ts">
import { computed, ref } from 'vue'
import { useSessionStorage } from '@vueuse/core'
import { useTermsQuery } from '@/api/queries'
import FieldRow from '@/bench/FieldRow.vue'
import NumberField from '@/forms/NumberField.vue'
import TextField from '@/forms/TextField.vue'
import { sent, wrongWith } from '@/forms/quantity'
import { FORMS, keyOf, pinLine, pinOf, type Section, SOURCES, type Statement } from './sections'
import type { Sheet } from './usePatterns'

/** One line of a sheet as it is typed. */
const props = defineProps<{ section: Section; line: Statement | null; sheet: Sheet }>()
const emit = defineEmits<{ kept: [line: Statement]; left: [] }>()
const { data: terms } = useTermsQuery()
const form = computed(() => FORMS[props.section])
const given = (props.line ?? {}) as Record<string, unknown>

const shown = (key: string, kind: string) => {
  const value = given[key]
  if (value === null || value === undefined) return ''
  if (kind === 'pins') return (value as Sheet['plugs'][number]['pins']).map(pinLine).join('\n')
  return Array.isArray(value) ? value.join(', ') : String(value)
}
// What is typed of a line and not taken over yet is there again after a reload.
const store = `saldatura.pattern.line.${props.section}.${props.line ? keyOf(props.section, props.line) : 'new'}`
const texts = useSessionStorage<Record<string, string>>(store, Object.fromEntries(form.value.fields.map((f) => [f.key, shown(f.key, f.kind) || (f.kind === 'choice' && f.options ? Object.keys(f.options)[0]! : '')])))
const done = () => [store, `${store}.source`, `${store}.origin`].forEach((key) => sessionStorage.removeItem(key))
const flags = ref<string[]>([...((given.has as string[]) ?? [])])
const source = useSessionStorage<keyof typeof SOURCES>(`${store}.source`, (given.source as keyof typeof SOURCES) ?? 'told')
const origin = useSessionStorage(`${store}.origin`, (given.origin as string) ?? '')
const wrong = ref<string | null>(null)
const photos = computed(() => Object.fromEntries([['', 'none'], ...props.sheet.photos.map((p) => [p.photo, p.photo])]))
const causes = computed(() => Object.fromEntries((terms.value?.causes ?? []).map((c) => [c.key, c.name])))
const options = (field: (typeof form.value.fields)[number]) => (field.kind === 'photo' ? photos.value : (field.options ?? causes.value))
const numbers = (text: string) => text.split(/[\s,;]+/).filter(Boolean).map((t) => sent(t) as number)

function valueOf(field: (typeof form.value.fields)[number]): unknown {
  const typed = texts.value[field.key] ?? ''
  switch (field.kind) {
    case 'number':
    case 'whole':
      return typed.trim() ? sent(typed, field.unit) : null
    case 'groups':
      return numbers(typed)
    case 'list':
      return typed.split(/[,;\n]+/).map((t) => t.trim()).filter(Boolean)
    case 'many':
      return flags.value
    case 'pins':
      return typed.split('\n').filter((line) => line.trim()).map(pinOf)
    default:
      return typed.trim()
  }
}
function leave() {
  done()
  emit('left')
}
function keep() {
  const fields = form.value.fields
  const bad = fields.map((f) => [f, f.kind === 'number' || f.kind === 'whole' ? wrongWith(texts.value[f.key], f.unit, f.kind === 'whole') : null] as const).find(([, said]) => said)
  if (bad) return void (wrong.value = `${bad[0].label}: ${bad[1]}.`)
  const first = fields[0]!
  if (!(texts.value[first.key] ?? '').trim()) return void (wrong.value = `${first.label}: is missing; say it.`)
  if (props.section === 'normals' && !texts.value.value?.trim()) return void (wrong.value = 'Reads: is missing; give the figure.')
  const unread = fields.some((f) => f.kind === 'pins') ? (texts.value.pins ?? '').split('\n').find((line) => line.trim() && !pinOf(line)) : null
  if (unread) return void (wrong.value = `Pins: “${unread.trim()}” begins with no number; such as “1 black 0”.`)
  const values = Object.fromEntries(fields.map((f) => [f.key, valueOf(f)]).filter(([key, value]) => value !== null || !['seen', 'count'].includes(key as string)))
  const kept = { ...given, confirmed: given.confirmed ?? 0, contradicted: given.contradicted ?? 0, ...values, source: source.value, origin: origin.value.trim() } as unknown as Statement
  done()
  emit('kept', kept)
}
</script>

<template>
  <form class="line-form" @submit.prevent="keep">
    <template v-for="(f, i) in form.fields" :key="f.key">
      <FieldRow v-if="f.kind === 'choice' || f.kind === 'photo'" :label="f.label" :class="{ wide: f.wide }">
        <template #default="{ id }"><ElSelect :id="id" v-model="texts[f.key]" :aria-label="f.label" filterable><ElOption v-for="(words, key) in options(f)" :key="key" :value="key" :label="String(words)" /></ElSelect></template>
      </FieldRow>
      <FieldRow v-else-if="f.kind === 'many'" :label="f.label" group class="wide">
        <div class="chips"><button v-for="(words, key) in f.options" :key="key" type="button" class="chip" :aria-pressed="flags.includes(key)" @click="flags = flags.includes(key) ? flags.filter((x) => x !== key) : [...flags, key]">{{ words }}</button></div>
      </FieldRow>
      <NumberField v-else-if="f.kind === 'number' || f.kind === 'whole'" v-model="texts[f.key]" :label="f.label" :unit="f.unit" :whole="f.kind === 'whole'" />
      <TextField v-else-if="f.kind === 'pins'" v-model="texts[f.key]" :label="f.label" type="textarea" :rows="4" class="wide" />
      <TextField v-else v-model="texts[f.key]" :label="f.label" :maxlength="f.max ?? 120" :class="{ wide: f.wide }" :autofocus="i === 0" />
    </template>
    <FieldRow label="Where this is from">
      <template #default="{ id }"><ElSelect :id="id" v-model="source" aria-label="Where this is from"><ElOption v-for="(words, key) in SOURCES" :key="key" :value="key" :label="words" /></ElSelect></template>
    </FieldRow>
    <TextField v-model="origin" label="Which job or sheet" maxlength="80" />
    <p v-if="wrong" class="error wide" role="alert">{{ wrong }}</p>
    <div class="acts wide"><ElButton type="primary" native-type="submit">{{ line ? 'Change the line' : form.adds }}</ElButton><ElButton @click="leave">Leave it</ElButton></div>
  </form>
</template>

<style scoped>
.line-form {
  border-left: 4px solid var(--copper);
  display: grid;
  gap: 10px 16px;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  padding: 6px 0 6px 16px;
}

.wide {
  grid-column: 1 / -1;
}

.acts {
  display: flex;
  gap: 10px;
}

@media (max-width: 700px) {
  .line-form {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
