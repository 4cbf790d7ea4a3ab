<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import { useStorage } from '@vueuse/core'
import { computed, nextTick, onMounted, useTemplateRef, watch } from 'vue'
import TakeBack from '@/bench/TakeBack.vue'
import Caution from '@/bench/Caution.vue'
import VoltsField from '@/bench/VoltsField.vue'
import StageButton from '@/bench/StageButton.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { volts } from '@/composables/format'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'
import ConnectorFigure from '@/figures/ConnectorFigure.vue'
import SettlingRing from '@/figures/SettlingRing.vue'
import { useLeadRun } from './useLeadRun'

/** Loose balance leads: measured against one of them, put in order, and joined to the connector one at a time. */
const job = useJob()
const { accept, bundle, busy, joining, leads, live, measuring, pin, prefilled, refusal, said, series, takeOff, text, title, wrong } = useLeadRun(job)
const { meter, meters, share, volts: shown } = live
const found = computed(() => joining.value?.identified ?? null)
const closed = computed(() => job.value.assessment.closed !== null)
// While leads are still to be measured, a tap without one is nothing odd.
const odd = computed(() => (found.value?.findings ?? []).filter((f) => f.kind !== 'missing_tap' || leads.value.length > series.value))
const tapOf = computed(() => new Map((found.value?.order ?? []).map((p) => [p.lead, p])))
const two = useStorage(`saldatura.connectors.${job.value.facts.id}`, false)
const connectors = computed(() => {
  const pins = joining.value?.pins ?? []
  const half = Math.ceil(pins.length / 2)
  return two.value ? [pins.slice(0, half), pins.slice(half)] : [pins]
})

const sentence = (words: string) => words.charAt(0).toUpperCase() + words.slice(1)
const under = computed(() => {
  if (measuring.value) return leads.value.length === 0 ? 'Black probe stays on it; it reads 0. Best is the lowest, pack minus.' : `Red probe on the next lead: its name and volts, or its volts alone; two values say that it wanders. Black stays on ${leads.value[0]!.lead}.`
  if (joining.value?.done) return 'Now every neighbouring pair, pin to pin, in Probe: a group each.'
  if (pin.value?.tap === 0) return 'Bare this one lead only. Join it, insulate it, and leave the black probe on pin 0. Enter goes on.'
  return pin.value ? `Bare this one lead only. Join it, insulate it, then read pin ${pin.value.tap} against pin 0.` : ''
})

const field = useTemplateRef<{ focus: () => void; select?: () => void }>('field')
onMounted(() => field.value?.focus())
watch([measuring, pin], () => void nextTick(() => field.value?.focus()))
watch(prefilled, () => void nextTick(() => field.value?.select?.()))
const clear = (event: KeyboardEvent) => {
  if (!text.value) return
  event.stopPropagation()
  text.value = ''
}

function pickUp(name: string) {
  text.value = name
  prefilled.value++
  field.value?.focus()
  // The first one is what all others are measured against: nothing to read.
  if (!leads.value.length) void accept()
}

useShortcuts([
  { key: 'Enter', does: 'note the lead or the pin; with no volts typed, what the live meter shows' },
  { key: 'Escape', does: 'empty the field' },
  { key: 'l', alt: true, does: 'live meter: off, or the next one there is', run: live.next },
])
</script>

<template>
  <StageLayout>
    <section class="leads">
      <p class="label">Loose <TermWord of="balance_lead">balance leads</TermWord> · {{ series + 1 }} <TermWord of="tap">taps</TermWord></p>
      <template v-if="!closed">
        <h1 aria-live="polite">{{ title }}</h1>
        <p class="under muted">{{ under }}</p>
        <form v-if="measuring || pin" class="entry" :class="{ wrong }" @submit.prevent="accept">
          <input v-if="measuring" ref="field" v-model="text" aria-label="lead and volts" autocomplete="off" spellcheck="false" @keydown.esc="clear" />
          <VoltsField v-else ref="field" v-model="text" class="pin" :label="`pin ${pin?.tap}, volts`" :said="said" @accept="accept" />
          <output v-if="meter" class="mono live" aria-label="live meter"><SettlingRing :share="share" />{{ shown === null ? '–' : volts(shown, 2) }} V</output>
          <span v-if="!measuring && pin" class="expect"><span class="muted">expected</span><br /><span class="mono">{{ volts(pin.expected_v, 2) }} V</span></span>
          <ElButton type="primary" native-type="submit" :loading="busy">{{ measuring ? 'Note it' : 'Read' }}</ElButton>
        </form>
        <p v-if="measuring && bundle.length" class="bundle"><span class="muted">hanging off the pack</span><button v-for="name in bundle" :key="name" type="button" :aria-pressed="text === name" @click="pickUp(name)">{{ name }}</button></p>
        <p v-if="meters.length" class="meter"><button type="button" class="linklike first" :aria-pressed="meter !== null" @click="live.next()">{{ meter ? `${meter.name} reads` : 'use a live meter' }} <kbd>Alt l</kbd></button></p>
        <p v-if="said ?? refusal?.message" class="error" role="alert">{{ said ?? refusal?.message }}</p>
        <p v-if="!measuring && joining?.stop" class="error" role="alert">{{ joining.stop }}</p>
        <p>
          <button v-if="!measuring" type="button" class="linklike first" @click="measuring = true">measure a lead again</button>
          <button v-else-if="leads.length > series" type="button" class="linklike first" @click="measuring = false">go on to joining</button>
        </p>
      </template>
      <template v-else>
        <h1>{{ job.assessment.frozen ? 'Signed off' : 'No probe on this pack yet' }}</h1>
        <p class="muted">{{ job.assessment.closed }}</p>
      </template>
      <template v-if="found">
        <template v-for="(pins, i) in connectors" :key="i">
          <ConnectorFigure :pins="pins" side="wire" />
          <ConnectorFigure :pins="pins" side="mate" />
        </template>
        <label v-if="series > 7" class="switch"><ElSwitch v-model="two" aria-label="Two connectors" /> The leads go to two connectors</label>
      </template>
      <table v-if="leads.length">
        <thead><tr><th>lead</th><th class="number">reads, V</th><th class="number">tap</th><th class="number">expect on pin 0, V</th><th><span class="visually-hidden">take off</span></th></tr></thead>
        <tbody>
          <tr v-for="l in leads" :key="l.lead">
            <td>{{ l.lead }}</td>
            <td class="number"><s v-for="(old, i) in l.again_v ?? []" :key="i">{{ volts(old, 2) }}&ensp;</s>{{ volts(l.volts, 2) }}</td>
            <td class="number">{{ tapOf.get(l.lead)?.tap ?? '–' }}</td>
            <td class="number">{{ volts(tapOf.get(l.lead)?.expected_v, 2) }}</td>
            <td class="off"><TakeBack v-if="!closed" :what="`lead ${l.lead}`" :keep="(reason) => takeOff(l.lead, reason)" /></td>
          </tr>
        </tbody>
      </table>
    </section>
    <template #judgement>
      <template v-if="odd.length">
        <p class="label">What is odd</p>
        <p v-for="(f, i) in odd" :key="i"><strong>{{ sentence(f.kind.replaceAll('_', ' ')) }}.</strong> {{ sentence(f.because) }}.</p>
      </template>
      <p v-else-if="found">{{ leads.length > series ? 'Every lead has its tap' : `${leads.length} of ${series + 1} are measured, and they go together` }}; a group reads {{ volts(found.group_v, 2) }} V.</p>
      <p v-else class="muted">Two leads at least are needed to put any in order.</p>
      <Caution title="Two bare leads are a short circuit">The cells hold them live. Bare one at a time, the others taped; cutters and iron touch one lead only.</Caution>
      <StageButton v-if="joining?.done" to="probe" :query="{ order: 'groups' }">Read every pair in Probe</StageButton>
    </template>
  </StageLayout>
</template>

<style scoped>
.leads {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
}

.under {
  font-size: 18px;
}

.entry {
  align-items: center;
  background: var(--field);
  border: 1px solid var(--ink);
  display: grid;
  gap: 18px;
  grid-template-columns: minmax(0, 1fr) auto auto auto;
  padding: 10px 14px 10px 20px;
}

.entry:focus-within {
  box-shadow: inset 0 -5px 0 var(--copper);
}

.entry.wrong {
  background: repeating-linear-gradient(-45deg, var(--hazard-tint) 0 10px, var(--field) 10px 20px);
}

.entry :is(input, .pin) {
  background: none;
  border: 0;
  color: var(--ink);
  font-family: var(--mono);
  font-size: 48px;
  min-width: 0;
  outline: none;
  width: 100%;
}

.expect {
  text-align: right;
}

.first {
  margin: 0;
}

.off {
  text-align: right;
}

.switch {
  align-items: center;
  display: flex;
  gap: 12px;
  min-height: 44px;
}

.live {
  align-items: center;
  display: flex;
  font-size: 26px;
  gap: 8px;
  white-space: nowrap;
}

.bundle {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.bundle button {
  background: none;
  border: 1px solid var(--petrol);
  color: var(--petrol);
  cursor: pointer;
  font: inherit;
  font-weight: 650;
  min-height: 44px;
  padding: 0 14px;
}

.bundle button[aria-pressed='true'] {
  background: var(--copper-tint);
  border-color: var(--copper);
  color: var(--copper);
}

.meter {
  margin: 0;
}
</style>
