<script setup lang="ts">
import { useStorage } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { client, settled } from '@/api/client'
import Caution from '@/bench/Caution.vue'
import StageButton from '@/bench/StageButton.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { volts } from '@/composables/format'
import { parseNumber } from '@/composables/parseVolts'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { tone } from '@/composables/useVoice'
import ConnectorFigure from '@/figures/ConnectorFigure.vue'
import { parseLead } from './parseLead'

/** Loose balance leads: measured against one of them, put in order, and joined to the connector one at a time. */
const job = useJob()
const { act, busy, refusal } = useAct()
const joining = computed(() => job.value.assessment.joining ?? null)
const series = computed(() => job.value.facts.intakes.at(-1)!.intake.pack.series)
const leads = computed(() => joining.value?.leads ?? [])
const found = computed(() => joining.value?.identified ?? null)
const closed = computed(() => job.value.assessment.frozen || job.value.assessment.quarantine.length > 0 || !job.value.facts.safety?.length)
const tapOf = computed(() => new Map((found.value?.order ?? []).map((p) => [p.lead, p])))
const two = useStorage(`saldatura.connectors.${job.value.facts.id}`, false)
const connectors = computed(() => {
  const pins = joining.value?.pins ?? []
  const half = Math.ceil(pins.length / 2)
  return two.value ? [pins.slice(0, half), pins.slice(half)] : [pins]
})

// The leads are being measured until there are as many as taps; then the joining begins. Either can be gone back to.
const measuring = shallowRef(true)
watch(() => [leads.value.length, joining.value?.stop] as const, ([count, stop]) => (measuring.value = count < series.value + 1 || (stop ?? '').startsWith('Nothing is joined')), { immediate: true })
const next = computed(() => joining.value?.next ?? null)
const wrong = computed(() => joining.value?.pins.find((p) => p.state === 'wrong') ?? null)
const pin = computed(() => (wrong.value ? { tap: wrong.value.tap, lead: wrong.value.lead!, expected_v: wrong.value.expected_v! } : next.value))

const sentence = (words: string) => words.charAt(0).toUpperCase() + words.slice(1)

const text = ref('')
const said = shallowRef<string | null>(null)
const field = useTemplateRef<HTMLInputElement>('field')
onMounted(() => field.value?.focus())
watch([measuring, pin], () => void nextTick(() => field.value?.focus()))

const path = computed(() => ({ params: { path: { job_id: job.value.facts.id } } }))
async function accept() {
  said.value = null
  if (measuring.value) {
    const typed = parseLead(text.value, leads.value.map((l) => l.lead))
    if (!typed) {
      said.value = leads.value.length ? `“${text.value}” has no volts; type the lead and its reading, such as red 11.62` : 'Name the lead that all others are measured against'
      return
    }
    if (await act(() => settled(client.POST('/api/jobs/{job_id}/leads', { ...path.value, body: typed })))) done()
    return
  }
  const read = parseNumber(text.value)
  if (!pin.value || read === null) {
    said.value = `“${text.value}” is not a number; type what pin ${pin.value?.tap} reads against pin 0`
    return
  }
  const body = { tap: pin.value.tap, lead: pin.value.lead, volts: read }
  if (await act(() => settled(client.POST('/api/jobs/{job_id}/leads/joined', { ...path.value, body })))) done()
}

function done() {
  text.value = ''
  tone(joining.value?.pins.some((p) => p.state === 'wrong') ? 'questioned' : 'accepted')
}

const takeOff = (lead: string) => act(() => settled(client.POST('/api/jobs/{job_id}/leads', { ...path.value, body: { lead, volts: null } })))

const title = computed(() => {
  if (measuring.value) return leads.value.length === 0 ? 'Which lead is the reference?' : `Lead ${leads.value.length + 1} of ${series.value + 1}`
  if (joining.value?.done) return 'Every lead is on its pin'
  if (wrong.value) return `Pin ${wrong.value.tap} is not right`
  return next.value ? `Join ${next.value.lead} to pin ${next.value.tap}` : 'Nothing to join'
})
const under = computed(() => {
  if (measuring.value) return leads.value.length === 0 ? 'Black probe stays on it; it reads 0. Best is the lowest, pack minus.' : `Red probe on the next lead: its name and volts, or its volts alone. Black stays on ${leads.value[0]!.lead}.`
  if (joining.value?.done) return 'Now every neighbouring pair, pin to pin, in Probe: a group each.'
  return pin.value ? `Bare this one lead only. Join it, insulate it, then read pin ${pin.value.tap} against pin 0.` : ''
})
</script>

<template>
  <StageLayout>
    <section class="leads">
      <p class="label">Loose balance leads · {{ series + 1 }} taps</p>
      <template v-if="!closed">
        <h1 aria-live="polite">{{ title }}</h1>
        <p class="under muted">{{ under }}</p>
        <form v-if="measuring || pin" class="entry" :class="{ wrong }" @submit.prevent="accept">
          <input ref="field" v-model="text" :aria-label="measuring ? 'lead and volts' : `pin ${pin?.tap}, volts`" autocomplete="off" spellcheck="false" />
          <span v-if="!measuring && pin" class="expect"><span class="muted">expected</span><br /><span class="mono">{{ volts(pin.expected_v, 2) }} V</span></span>
          <ElButton type="primary" native-type="submit" :loading="busy">{{ measuring ? 'Note it' : 'Read' }}</ElButton>
        </form>
        <p v-if="said ?? refusal?.message" class="error" role="alert">{{ said ?? refusal?.message }}</p>
        <p v-if="!measuring && joining?.stop" class="error" role="alert">{{ joining.stop }}</p>
        <p>
          <button v-if="!measuring" type="button" class="linklike first" @click="measuring = true">measure a lead again</button>
          <button v-else-if="leads.length > series" type="button" class="linklike first" @click="measuring = false">go on to joining</button>
        </p>
      </template>
      <template v-else>
        <h1>{{ job.assessment.frozen ? 'Signed off' : 'No probe on this pack yet' }}</h1>
        <p class="muted">{{ job.assessment.frozen ? 'The leads are closed.' : 'Its safety screen in Take in comes first.' }}</p>
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
            <td class="off"><button v-if="!closed" type="button" class="linklike" :aria-label="`take ${l.lead} off the list`" @click="takeOff(l.lead)">take off</button></td>
          </tr>
        </tbody>
      </table>
    </section>
    <template #judgement>
      <template v-if="found?.findings.length">
        <p class="label">What is odd</p>
        <p v-for="(f, i) in found.findings" :key="i"><strong>{{ sentence(f.kind.replaceAll('_', ' ')) }}.</strong> {{ sentence(f.because) }}.</p>
      </template>
      <p v-else-if="found">Every lead has its tap; a group hangs at {{ volts(found.group_v, 2) }} V.</p>
      <p v-else class="muted">Two leads at least are needed to put any in order.</p>
      <Caution title="Two bare leads are a short circuit">The cells hold them live. Bare one at a time, the others taped; cutters and iron touch one lead only.</Caution>
      <StageButton v-if="joining?.done" to="probe">Read every pair in Probe</StageButton>
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
  grid-template-columns: minmax(0, 1fr) auto auto;
  padding: 10px 14px 10px 20px;
}

.entry:focus-within {
  box-shadow: inset 0 -5px 0 var(--copper);
}

.entry.wrong {
  background: repeating-linear-gradient(-45deg, var(--hazard-tint) 0 10px, var(--field) 10px 20px);
}

.entry input {
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
</style>
