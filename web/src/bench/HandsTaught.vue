<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { type PadCommand, useSettings } from '@/composables/useSettings'
import { hasVoice, say, tone } from '@/composables/useVoice'
import { PEDALS, Scan } from '@/composables/taughtKeys'

/** What the hands press, each taught once: press it here, and see what came. */
const settings = useSettings()
const heard = shallowRef<Record<string, string>>({})
const told = (what: string, words: string) => (heard.value = { ...heard.value, [what]: words })
const HELD = ['Tab', 'Shift', 'Control', 'Alt', 'Meta', 'Escape', 'Enter']

function pedal(e: Event | KeyboardEvent) {
  if (!('key' in e)) return
  if (HELD.includes(e.key)) return
  e.preventDefault()
  if (!PEDALS.test(e.key)) return told('pedal', `“${e.key}” is needed for typing; set the pedal to a key such as PageDown or F13`)
  settings.value.pedal = e.key
  told('pedal', `${e.key}: it takes a reading from now on`)
  tone('accepted')
}

const SIGNS: Record<string, string> = { NumpadAdd: 'pad +', NumpadMultiply: 'pad ×', NumpadDivide: 'pad ÷', NumpadEqual: 'pad =' }
const keyName = (code: string) => SIGNS[code] ?? code.replace('Numpad', 'pad ')
const PAD: Record<PadCommand, string> = { r: 'again', x: 'cannot reach', s: 'skip' }
function pad(command: PadCommand, e: Event | KeyboardEvent) {
  if (!('key' in e)) return
  if (HELD.slice(0, 6).includes(e.key)) return
  e.preventDefault()
  // Digits, marks and Enter are needed for the number itself; so is the sign.
  if (!/^Numpad(Add|Multiply|Divide|Equal|Comma|Clear|Backspace)$|^F\d+$/.test(e.code)) return told(command, `${e.code || e.key} is needed for typing; take +, *, / or a key of its own`)
  const others = Object.entries(settings.value.pad).filter(([key, of]) => of !== command && key !== e.code)
  settings.value.pad = { ...Object.fromEntries(others), [e.code]: command }
  told(command, `${keyName(e.code)}: ${PAD[command]}`)
  tone('accepted')
}
function padOf(command: PadCommand): string {
  const code = Object.entries(settings.value.pad).find(([, of]) => of === command)?.[0]
  return code ? keyName(code) : 'not taught'
}

const scan = new Scan()
const label = ref('')
function scanned(e: Event | KeyboardEvent) {
  if (!('key' in e)) return
  const found = scan.press(e.key, performance.now())
  if (e.key === 'Tab' || e.key === 'Enter') e.preventDefault()
  if (!found) return
  label.value = ''
  if (!found.fast) return told('scan', `“${found.text}” came as slowly as from a hand: scan a label`)
  settings.value.scanner = found.end
  told('scan', `“${found.text}”, ended by ${found.end}: understood`)
  tone('accepted')
}
const voice = computed(() => hasVoice.value)
</script>

<template>
  <section class="part">
    <h2>Pedal, keypad, scanner and sound</h2>
    <p class="muted">Each is taught once: go to its field and press it.</p>
    <div class="taught">
      <label for="teach-pedal">Pedal</label>
      <ElInput id="teach-pedal" aria-label="Pedal key: press the pedal" :model-value="settings.pedal" readonly @keydown="pedal" />
      <p role="status" :class="{ error: heard.pedal?.startsWith('“') }">{{ heard.pedal ?? 'takes what the meter shows, settled or not' }}</p>
      <template v-for="(words, command) in PAD" :key="command">
        <label :for="`teach-${command}`">Keypad, {{ words }}</label>
        <ElInput :id="`teach-${command}`" :aria-label="`Keypad key for ${words}: press it`" :model-value="padOf(command)" readonly @keydown="pad(command, $event)" />
        <p role="status" :class="{ error: heard[command]?.includes('needed') }">{{ heard[command] ?? 'beside an empty field, while a run of readings goes on' }}</p>
      </template>
      <label for="teach-scan">Scanner</label>
      <ElInput id="teach-scan" v-model="label" aria-label="Scanner: scan any label" :placeholder="`ends with ${settings.scanner}`" autocomplete="off" @keydown="scanned" />
      <p role="status" :class="{ error: heard.scan?.includes('slowly') }">{{ heard.scan ?? 'one that types, as a keyboard does' }}</p>
    </div>
    <label class="switch"><ElSwitch v-model="settings.tone" aria-label="A tone at each reading" @change="settings.tone && tone('accepted')" /> A tone when a reading has settled and is taken</label>
    <label class="switch"><ElSwitch v-model="settings.speech" aria-label="Say the next point aloud" @change="settings.speech && say('tap 5 against tap 0')" /> Say the next point aloud</label>
    <p v-if="settings.speech && !voice" class="muted">This browser has no voice: two rising tones say that the next point is up.</p>
  </section>
</template>

<style scoped>
.part {
  display: grid;
  gap: 10px;
  max-width: 640px;
}

.taught {
  align-items: center;
  display: grid;
  gap: 8px 14px;
  grid-template-columns: 150px 150px minmax(0, 1fr);
}

.taught p {
  font-size: 14px;
  margin: 0;
}

.switch {
  align-items: center;
  display: flex;
  gap: 12px;
  min-height: 44px;
}

@media (width < 700px) {
  .taught {
    grid-template-columns: 1fr 1fr;
  }

  .taught p {
    grid-column: 1 / -1;
  }
}
</style>
