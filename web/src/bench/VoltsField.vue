<script setup lang="ts">
import { nextTick, useTemplateRef, watch } from 'vue'
import { useSettings } from '@/composables/useSettings'
import { askUndo, askWork, noteOrTry } from './acts'

/**
 * The one field for volts, wherever they are typed: command letters act beside an empty field only, Escape clears, what was
 * refused is typed over.
 */
const text = defineModel<string>({ required: true })
const props = defineProps<{ label: string; commands?: string[]; pedal?: string; said?: string | null; describedby?: string; id?: string }>()
const emit = defineEmits<{ accept: []; back: []; command: [key: string] }>()

// Keys of a keypad, as they were taught.
const pad = useSettings()
const input = useTemplateRef<HTMLInputElement>('input')
const focus = (how?: { preventScroll: boolean }) => input.value?.focus(how)
defineExpose({ focus })

// What was refused is typed over, also where it is put back into the field a moment after it was refused.
let refused = false
watch([() => props.said, text], ([said], [before]) => {
  if (said !== before) refused = Boolean(said)
  if (refused) void nextTick(() => input.value?.select())
})

function key(event: KeyboardEvent) {
  if (event.altKey || event.ctrlKey || event.metaKey) return
  // A key held down says nothing new.
  if (event.repeat && event.key.length > 1 && event.key !== 'Backspace') return event.preventDefault()
  const meant = pad.value.pad?.[event.code] ?? event.key
  if (event.key === 'Enter' || (props.pedal && event.key === props.pedal)) taken(event, () => emit('accept'))
  else if (event.key === 'Escape' && text.value !== '') taken(event, () => (text.value = ''))
  // Letters are commands beside an empty field; in a number they are slips, and are refused with it.
  else if (text.value !== '') return
  else if (event.key === 'Backspace') taken(event, () => emit('back'))
  else if (props.commands?.includes(meant)) taken(event, () => emit('command', meant))
  else if (event.key === 'u') taken(event, () => askUndo.value++)
  else if (event.key === 'n') taken(event, () => (noteOrTry.value = 'note'))
  else if (event.key === 'w') taken(event, () => askWork())
}

function taken(event: KeyboardEvent, act: () => void) {
  event.preventDefault()
  event.stopPropagation()
  act()
}
</script>

<template>
  <input :id="id" ref="input" v-model="text" class="volts" inputmode="decimal" placeholder=" " autocomplete="off" spellcheck="false" :aria-label="label" :aria-describedby="describedby" @input="refused = false" @keydown="key" />
</template>

<style scoped>
.volts {
  background: none;
  border: 0;
  caret-color: var(--copper);
  color: var(--ink);
  font-family: var(--mono);
  min-width: 0;
  outline: none;
  padding: 0;
  width: 100%;
}

/* Among other fields of a form. */
.boxed {
  background: var(--field);
  border: 1px solid var(--muted);
  font-size: 22px;
  height: 44px;
  padding: 0 12px;
}

.boxed:focus {
  box-shadow: inset 0 -3px 0 var(--copper);
}
</style>
