<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, shallowRef } from 'vue'
import { RouterLink, useRoute } from 'vue-router'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient } from '@/api/queries'
import OpenFrame from '@/bench/OpenFrame.vue'
import { useAct } from '@/composables/useAct'
import NumberField from '@/forms/NumberField.vue'
import { sent, type Unit } from '@/forms/quantity'
import PracticeMeter from './PracticeMeter.vue'

/** A meter that streams is taken through three known readings; each line it sends stands there with what it is understood as. */
type Means = Schemas['NewTeaching']['means']
const route = useRoute()
const id = computed(() => Number(route.params.id))
const path = computed(() => ({ params: { path: { instrument_id: id.value } } }))
const { data: heard, error } = useQuery({ queryKey: computed(() => ['lines', id.value]), queryFn: () => settled(client.GET('/api/instruments/{instrument_id}/lines', path.value)), refetchInterval: 500, retry: false })
const { data: shop } = useQuery({ queryKey: ['instruments'], queryFn: () => settled(client.GET('/api/instruments')) })
const { data: ports } = useQuery({ queryKey: ['ports'], queryFn: () => settled(client.GET('/api/ports')) })
const name = computed(() => shop.value?.find((i) => i.entered.id === id.value)?.entered.name ?? 'The meter')
const practice = computed(() => (ports.value?.ports ?? []).some((p) => p.practice && p.instrument === name.value))

type Step = { means: Means; title: string; does: string; unit?: Unit; field?: string }
const HOLD: Step = { means: 'hold', title: 'HOLD', does: 'Leads as they are: press HOLD on the meter, then the button here. Release HOLD afterwards.' }
const METER: Step[] = [
  { means: 'volts', title: 'A voltage', does: 'Knob on DC volts, leads on any cell. Type what the display shows.', unit: 'V', field: 'The display shows' },
  HOLD,
  { means: 'ohm', title: 'Ohms, leads apart', does: 'Knob on ohms, the leads in the air, so that it shows its overload. Nothing on ohms is ever taken for volts.' },
]
const WARMTH: Step[] = [{ means: 'celsius', title: 'A temperature', does: 'Its probe in the hand or in the air. Type what the display shows.', unit: '°C', field: 'The display shows' }, HOLD]
const kind = computed(() => shop.value?.find((i) => i.entered.id === id.value)?.entered.kind)
const steps = computed(() => (kind.value === 'thermometer' ? WARMTH : METER))
const typed = ref<Partial<Record<Means, string>>>({})
const said = shallowRef<Partial<Record<Means, Schemas['MeterLesson']>>>({})
const { act, busy, refusal } = useAct()
const at = shallowRef<Means | null>(null)
async function teach(step: Step) {
  at.value = step.means
  const text = typed.value[step.means]?.trim()
  const shows = step.unit && text ? (sent(text, step.unit) as number) : null
  const found = await act(() => settled(client.POST('/api/instruments/{instrument_id}/teach', { ...path.value, body: { means: step.means, shows } })))
  if (!found) return
  said.value = { ...said.value, [step.means]: found }
  void queryClient.invalidateQueries({ queryKey: ['lines', id.value] })
}
const done = (means: Means) => heard.value?.words.compared?.includes(means) ?? false
const trusted = computed(() => (done('volts') || done('celsius')) && (heard.value?.words.holds === 'says' || heard.value?.words.holds === 'stops'))

const UNITS = { volts: 'V', ohm: 'Ω', celsius: '°C', amps: 'A', other: '' }
const WHY: Record<string, string> = {
  no_figure: 'no figure', no_unit: 'no unit: could be volts or ohms', two_figures: 'two figures', unknown_word: 'a word it was not taught', hold: 'held', relative: 'a difference or an extreme', alternating: 'AC', other_mode: 'another measure',
}
function understood(line: Schemas['MeterLine']): string {
  if (line.overload) return line.because ? `overload, ${WHY[line.because]}` : 'overload: no value'
  if (line.because) return `${WHY[line.because]}: not taken`
  return line.value == null ? 'nothing' : `${line.value} ${UNITS[line.quantity ?? 'other']}`
}
</script>

<template>
  <OpenFrame title="Teach a meter" under="Instruments">
    <main class="teach">
      <h1>Teach {{ name }}</h1>
      <p v-if="error" class="error" role="alert">{{ error.message }}</p>
      <template v-else>
        <p>{{ trusted ? kind === 'thermometer' ? 'Understood: it guards charges and runs against heat from now on.' : 'Understood: a settled voltage is taken by itself from now on.' : kind === 'thermometer' ? 'Two known readings, then it guards charges and runs against heat. Until then it is only shown.' : 'Three known readings, then its settled values are taken by themselves. Until then they are shown, and Enter or the pedal takes them.' }}</p>
        <ol>
          <li v-for="step in steps" :key="step.means" :class="{ done: done(step.means) }">
            <h2>{{ step.title }} <span v-if="done(step.means)" class="mark">done</span></h2>
            <form class="step" @submit.prevent="teach(step)">
              <p>{{ step.does }}</p>
              <NumberField v-if="step.field" v-model="typed[step.means]" :label="step.field" :unit="step.unit" :error="at === step.means ? refusal?.on('shows') : null" />
              <ElButton type="primary" native-type="submit" :loading="busy && at === step.means" :disabled="busy || (!!step.field && !typed[step.means]?.trim())">{{ step.field ? 'Compare with the line' : step.means === 'hold' ? 'HOLD is pressed now' : 'It shows overload now' }}</ElButton>
              <p v-if="said[step.means]" :class="said[step.means]!.understood ? 'good' : 'error'" role="status">{{ said[step.means]!.says }}</p>
              <p v-else-if="refusal && at === step.means && !refusal.on('shows')" class="error" role="alert">{{ refusal.message }}</p>
            </form>
          </li>
        </ol>
        <p><RouterLink to="/instruments">Back to Instruments</RouterLink></p>
      </template>
    </main>
    <aside class="side">
      <h2>What it sends, and how it is read</h2>
      <p class="muted" role="status">{{ heard?.says }}</p>
      <table v-if="heard?.lines.length">
        <thead><tr><th>line</th><th>read as</th></tr></thead>
        <tbody><tr v-for="(h, k) in heard.lines.slice(0, 4)" :key="k" :class="{ newest: k === 0 }"><td class="mono">{{ h.line.text }}</td><td>{{ understood(h.line) }}</td></tr></tbody>
      </table>
      <p class="muted">A figure needs its unit beside it. Held, relative and alternating values, diode tests and overloads are never taken; a new word in a line that was taught holds it back until you teach again.</p>
      <PracticeMeter v-if="practice" />
    </aside>
  </OpenFrame>
</template>

<style scoped>
.teach {
  display: grid;
  gap: 14px;
  grid-auto-rows: max-content;
  min-height: 0;
  overflow: auto;
  padding: 24px 28px;
}

ol {
  counter-reset: step;
  list-style: none;
  margin: 0;
  max-width: 640px;
  padding: 0;
}

li {
  border-top: 1px solid var(--rule);
  counter-increment: step;
  display: grid;
  gap: 4px;
  padding: 12px 0 14px 44px;
  position: relative;
}

li::before {
  content: counter(step);
  font-size: 28px;
  font-weight: 650;
  left: 4px;
  position: absolute;
  top: 8px;
}

h2 {
  font-size: 19px;
  margin: 0;
}

.mark {
  border: 1.5px solid var(--petrol);
  color: var(--petrol);
  font-size: 14px;
  margin-left: 8px;
  padding: 1px 7px;
}

.step {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
}

.step p {
  flex: 1 1 100%;
  margin: 0;
}

.good {
  color: var(--petrol);
}

.side {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  display: grid;
  gap: 12px;
  grid-auto-rows: max-content;
  min-height: 0;
  overflow: auto;
  padding: 24px 20px;
}

table {
  border-collapse: collapse;
  font-size: 15px;
}

th {
  font-weight: 400;
  text-align: left;
}

td {
  border-top: 1px solid var(--rule-soft);
  padding: 4px 12px 4px 0;
  white-space: pre-wrap;
}

.newest td {
  font-weight: 650;
}
</style>
