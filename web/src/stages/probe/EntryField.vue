<script setup lang="ts">
import { computed, nextTick, onMounted, useTemplateRef, watch } from 'vue'
import VoltsField from '@/bench/VoltsField.vue'
import { useSettings } from '@/composables/useSettings'
import { volts } from '@/composables/format'
import SettlingRing from '@/figures/SettlingRing.vue'
import type { RunPoint } from './useProbeRun'

/** The one field of a probe run, read from an arm's length: the number, what is expected, and what its keys do. */
const text = defineModel<string>({ required: true })
const props = defineProps<{ point: RunPoint; preview: number | null; digits: number; expectation: string; questioned: string | null; error: string | null; meters: number; place: 'pin' | 'tab'; tabs: boolean; live: { volts: number | null; share: number; says: string; digits: number } | null }>()
const emit = defineEmits<{ accept: []; back: []; unreachable: []; skip: []; again: []; scheme: []; live: []; draw: []; place: []; work: [] }>()

const settings = useSettings()
const input = useTemplateRef<{ focus: () => void }>('input')
const focus = () => input.value?.focus()
onMounted(focus)
watch(() => props.point.words, () => void nextTick(focus))
defineExpose({ focus })

// A line of several numbers shrinks to stay in sight.
const size = computed(() => (text.value.length > 22 ? 'small' : text.value.length > 7 ? 'medium' : ''))

const COMMANDS = { x: 'unreachable', s: 'skip', r: 'again', p: 'scheme', l: 'live', d: 'draw', t: 'place' } as const
const command = (key: string) => emit(COMMANDS[key as keyof typeof COMMANDS] as 'skip')
</script>

<template>
  <div class="entry" :class="{ questioned }" @click="focus">
    <output v-if="live && !text" class="number live" aria-label="live meter"><SettlingRing :share="live.share" />{{ live.volts === null ? '–' : volts(live.volts, live.digits) }}</output>
    <VoltsField
      ref="input"
      v-model="text"
      data-next
      :class="[size, { under: live && !text }]"
      class="number"
      :label="`${point.words}, volts`"
      :describedby="error || questioned ? 'entry-said' : undefined"
      :said="error"
      :pedal="settings.pedal"
      :commands="Object.keys(COMMANDS)"
      @accept="emit('accept')"
      @back="emit('back')"
      @command="command"
    />
    <span class="unit" aria-hidden="true">V</span>
    <div class="expected">
      <span class="muted">expected</span>
      <span class="mono range">{{ volts(point.expected_low_v, digits) }} – {{ volts(point.expected_high_v, digits) }} V</span>
      <span class="muted">{{ preview !== null && /^\d{2,}$/.test(text) ? `taken as ${volts(preview, digits)} V` : live && live.volts === null ? live.says : expectation }}</span>
    </div>
  </div>
  <p v-if="questioned" id="entry-said" class="error said" role="alert">{{ questioned }} Enter once more keeps it; or type it again.</p>
  <p v-else-if="error" id="entry-said" class="error said" role="alert">{{ error }}</p>
  <div class="keys">
    <button type="button" @click="emit('accept')"><kbd>⏎</kbd> accept</button>
    <button type="button" @click="emit('back')"><kbd>Bksp</kbd> back</button>
    <button type="button" @click="emit('unreachable')"><kbd>x</kbd> cannot reach</button>
    <button type="button" @click="emit('skip')"><kbd>s</kbd> skip</button>
    <button type="button" @click="emit('again')"><kbd>r</kbd> again</button>
    <button type="button" @click="emit('scheme')"><kbd>p</kbd> order</button>
    <button v-if="tabs || place === 'tab'" type="button" :aria-pressed="place === 'tab'" @click="emit('place')"><kbd>t</kbd> {{ place === 'tab' ? 'on the tabs' : 'at the pins' }}</button>
    <button v-if="meters" type="button" :aria-pressed="live !== null" @click="emit('live')"><kbd>l</kbd> live</button>
  </div>
</template>

<style scoped>
.entry {
  align-items: center;
  background: var(--field);
  border: 1px solid var(--ink);
  cursor: text;
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto 200px;
  height: 132px;
  overflow: hidden;
  padding: 0 18px 0 22px;
}

.entry:focus-within {
  box-shadow: inset 0 -5px 0 var(--copper);
}

.entry.questioned {
  background: repeating-linear-gradient(-45deg, var(--copper-tint) 0 10px, var(--field) 10px 20px);
}

.number {
  background: none;
  border: 0;
  caret-color: var(--copper);
  color: var(--ink);
  font-family: var(--mono);
  font-size: 84px;
  font-weight: 550;
  letter-spacing: -0.02em;
  min-width: 0;
  outline: none;
  padding: 0;
  width: 100%;
}

.number.live {
  align-items: center;
  display: flex;
  font-size: 54px;
  gap: 14px;
  grid-area: 1 / 1;
  white-space: nowrap;
  pointer-events: none;
}

.number.under {
  grid-area: 1 / 1;
  opacity: 0;
}

.number.medium {
  font-size: 48px;
}

.number.small {
  font-size: 26px;
}

.unit {
  color: var(--muted);
  font-family: var(--mono);
  font-size: 40px;
  padding-right: 22px;
}

.expected {
  display: grid;
  justify-items: end;
  text-align: right;
}

.range {
  font-size: 19px;
  white-space: nowrap;
}

.said {
  margin-top: 8px;
}

.keys {
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  justify-content: space-between;
}

.keys button {
  align-items: center;
  background: none;
  border: 0;
  color: var(--muted);
  cursor: pointer;
  display: flex;
  font: inherit;
  font-size: 13.5px;
  gap: 5px;
  min-height: 44px;
  padding: 0 2px;
  white-space: nowrap;
}

.keys kbd {
  font-size: 12.5px;
  padding: 4px 6px;
}

.keys button[aria-pressed='true'] {
  color: var(--copper);
  font-weight: 700;
}

.keys button:hover {
  color: var(--ink);
}

@media (max-width: 1100px) {
  .entry {
    grid-template-columns: minmax(0, 1fr) auto 168px;
    padding: 0 12px 0 14px;
  }

  .number {
    font-size: 62px;
  }

  .unit {
    font-size: 30px;
    padding-right: 10px;
  }

  .range {
    font-size: 16px;
  }

  .keys {
    flex-wrap: wrap;
    gap: 0 14px;
    justify-content: flex-start;
  }

}

@media (max-width: 900px) {
  .entry {
    grid-template: 1fr auto / minmax(0, 1fr) auto;
    height: auto;
    min-height: 132px;
    padding-block: 8px;
  }

  .expected {
    display: flex;
    flex-wrap: wrap;
    gap: 0 10px;
    grid-column: 1 / -1;
    justify-items: start;
    text-align: left;
  }
}
</style>
