<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef } from 'vue'
import { useRouter } from 'vue-router'
import { client, settled } from '@/api/client'
import TakeBack from '@/bench/TakeBack.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { clock, day, volts } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import { useShortcuts } from '@/composables/useShortcuts'
import CheckList from '@/stages/prove/CheckList.vue'
import LessonOf from './LessonOf.vue'
import { stagePath } from '@/router'
import OpeningSteps from '@/stages/probe/OpeningSteps.vue'
import SignForm from './SignForm.vue'
import TextField from '@/forms/TextField.vue'

const job = useJob()
const router = useRouter()
const settings = useSettings()
const { act, busy, refusal } = useAct()
const facts = computed(() => job.value.facts)
const signed = computed(() => facts.value.sign_off ?? null)
const proof = computed(() => job.value.assessment.proof)
const { data: plan } = useQuery({
  queryKey: computed(() => ['proof-plan', facts.value.id, facts.value.last_id]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/proof-plan', { params: { path: { job_id: facts.value.id } } })),
})
// A test that failed is no pass, however level the groups rest.
const failed = computed(() => (plan.value?.tests ?? []).filter((t) => t.outcome === 'fail').map((t) => t.label.toLowerCase()))
const passed = computed(() => proof.value?.result === 'pass' && !failed.value.length)
const held = computed(() => job.value.assessment.quarantine.length > 0)

// As it came: the pack before anything was done to it, by its own groups.
const first = computed(() => job.value.assessment.before ?? job.value.assessment.probe)
const after = computed(() => job.value.assessment.prove)
const spread = (groups: { volts: number | null }[] | undefined) => {
  const known = groups?.flatMap((g) => (g.volts === null ? [] : [g.volts])) ?? []
  return known.length ? Math.max(...known) - Math.min(...known) : null
}
const rows = computed(() => [
  { what: 'Found', before: first.value?.verdict.headline ?? 'not judged', after: after.value?.readings.length ? after.value.verdict.headline : 'not read again' },
  { what: 'Spread at rest', before: mv(spread(first.value?.verdict.groups)), after: mv(spread(after.value?.verdict.groups)) },
  { what: 'Lowest group', before: lowest(first.value?.verdict.groups), after: lowest(after.value?.verdict.groups) },
])
function mv(value: number | null) {
  return value === null ? '–' : `${Math.round(value * 1000)} mV`
}
function lowest(groups: { group: number; volts: number | null }[] | undefined) {
  const known = (groups ?? []).filter((g) => g.volts !== null).toSorted((a, b) => a.volts! - b.volts!)
  return known[0] ? `group ${known[0].group}, ${volts(known[0].volts)} V` : '–'
}

// Times on paper are those of this place.
const zone = encodeURIComponent(Intl.DateTimeFormat().resolvedOptions().timeZone)
const sheet = computed(() => `/api/jobs/${facts.value.id}/sheet.pdf?zone=${zone}`)
const base = computed(() => `/api/jobs/${facts.value.id}`)
const here = encodeURIComponent(window.location.origin)
// Cells that stayed here go to the collection.
const stayed = computed(() => facts.value.sign_off?.outcome === 'scrap' || job.value.now.left_out.some((out) => out.where === 'to waste') || job.value.now.groups.some((g) => g.cells.some((c) => c.origin !== 'original')))
const exported = computed(() => `/api/jobs/${facts.value.id}/export`)

const path = computed(() => ({ path: { job_id: facts.value.id } }))
const papers = useTemplateRef<HTMLElement>('papers')
const reopening = ref(false)
const again = ref({ by: settings.value.technician, reason: '' })
async function reopen() {
  if (!(await act(() => settled(client.POST('/api/jobs/{job_id}/reopened', { params: path.value, body: again.value }))))) return
  reopening.value = false
  again.value.reason = ''
}
const archive = () => act(() => settled(client.POST('/api/jobs/{job_id}/archived', { params: path.value, body: {} })))
useShortcuts([
  { key: 'p', does: 'see the sheet', run: () => papers.value?.querySelector('a')?.click() },
])
const title = computed(() => {
  if (!signed.value) return held.value ? 'Held: it can only be closed as scrap' : passed.value ? 'Ready to hand over' : failed.value.length ? `It fails: ${failed.value.join(', ')}` : 'Not proved'
  if (signed.value.outcome === 'scrap') return 'Scrapped'
  return signed.value.simulated ? 'Signed as a simulation' : 'Signed and handed over'
})
</script>

<template>
  <StageLayout>
    <section class="hand">
      <h1>{{ title }}</h1>
      <p v-if="job.now.came"><strong>{{ job.now.label }} now</strong>; it came as {{ job.now.came }}.<template v-for="out in job.now.left_out" :key="out.was"> Group {{ out.was }} was left out: {{ out.because.replaceAll('_', ' ') }}, {{ out.where === 'drawer' ? 'its cells in the drawer' : out.where }}; agreed with {{ out.agreed_with }}.</template></p>
      <table>
        <thead><tr><th>{{ facts.intake.pack_name }}</th><th>as it came</th><th>as it goes</th></tr></thead>
        <tbody>
          <tr v-for="row in rows" :key="row.what"><td class="muted">{{ row.what }}</td><td v-from="{ what: `${row.what}, as it came`, set: first, groups: 'all' }">{{ row.before }}</td><td v-from="{ what: `${row.what}, as it goes`, set: after, groups: 'all' }"><strong>{{ row.after }}</strong></td></tr>
        </tbody>
      </table>
      <section v-if="job.assessment.compared.length || job.assessment.done?.length" class="done">
        <h2>Done</h2>
        <p v-for="d in job.assessment.done ?? []" :key="d.fact">{{ day(d.at) }} {{ clock(d.at) }}: {{ d.says }}{{ d.minutes ? ` ${d.minutes} min.` : '' }}<span v-if="d.found" class="muted"> Before it: {{ d.found }}.</span> <TakeBack v-if="!signed && !held" :fact="d.fact" what="this work" /></p>
        <p v-for="c in job.assessment.compared" :key="c.charge_id">Group {{ c.group }} levelled. {{ c.says }}</p>
      </section>

      <section v-if="signed" class="signed">
        <p>Signed by <strong>{{ signed.by }}</strong><template v-if="facts.signed_elsewhere"> in another shop</template>, {{ day(signed.at) }} {{ clock(signed.at) }}, with Saldatura {{ signed.program_version }}<template v-if="signed.minutes">; {{ signed.minutes }} min at the bench</template>. Inputs, results and the program's version are frozen as they were.<template v-if="facts.signed_elsewhere && facts.brought_in"> Its file was brought in here {{ day(facts.brought_in) }}; nobody here answers for it.</template></p>
        <p v-if="signed.outcome === 'scrap'">Not handed back because: {{ signed.reason }}. It went: {{ signed.went }}.</p>
        <p v-else-if="signed.reason">{{ signed.passed ? 'Remark' : 'Handed back without a pass because' }}: {{ signed.reason }}</p>
      </section>
      <section v-for="part in job.assessment.parts ?? []" :key="part.part" class="signed">
        <p>Part {{ part.part }} was signed{{ part.elsewhere ? ' in another shop' : '' }} by {{ part.signed_by }}, {{ day(part.signed_at) }}, and opened again by {{ part.reopened_by }}, {{ day(part.reopened_at) }}: {{ part.reason }}. <a :href="`${sheet}&part=${part.part}`" target="_blank" rel="noopener">Its sheet</a></p>
      </section>
      <SignForm v-if="!signed" :held="held" :passed="passed" @signed="papers?.querySelector('a')?.focus()" />
      <p v-if="signed && !reopening"><button type="button" class="linklike first" @click="reopening = true">open it again as a new part</button> <button v-if="!job.assessment.archived" type="button" class="linklike" @click="archive">put it in the archive</button><span v-else class="muted">In the archive.</span></p>
      <form v-if="signed && reopening" class="sign" @submit.prevent="reopen">
        <TextField v-model="again.by" label="Who opens it" :error="refusal?.on('by')" maxlength="60" />
        <TextField v-model="again.reason" label="Why it is opened again" :error="refusal?.on('reason')" maxlength="400" autofocus />
        <ElButton type="primary" native-type="submit" :loading="busy">Open it again</ElButton>
        <ElButton @click="reopening = false">Cancel</ElButton>
      </form>
      <p v-if="signed && refusal && !refusal.on('by') && !refusal.on('reason')" class="error" role="alert">{{ refusal.message }}</p>
      <LessonOf />
      <div ref="papers" class="papers">
        <a :href="sheet" target="_blank" rel="noopener" class="paper">{{ signed ? 'Print the sheet' : 'See the sheet as a draft' }}</a>
        <a :href="`${base}/certificate.pdf?zone=${zone}`" target="_blank" rel="noopener" class="paper">{{ signed ? 'Certificate for the customer' : 'See the certificate as a draft' }}</a>
        <a :href="`${base}/pack-label.pdf?zone=${zone}&origin=${here}`" target="_blank" rel="noopener" class="paper">Label for the pack</a>
        <a v-if="stayed" :href="`${base}/waste-note.pdf?zone=${zone}`" target="_blank" rel="noopener" class="paper">Note for the collection</a>
        <a :href="exported" download class="paper">Export the whole job</a>
        <a :href="`${exported}?shared=true`" download class="paper" title="No customer, serial, note of the intake or photo; the name and the serial are taken out of every other text. Read it before it goes.">Share it without the customer</a>
      </div>
    </section>
    <template #judgement>
      <OpeningSteps v-if="!signed" of="closing" @photo="(name) => router.push({ path: stagePath(facts.id, 'probe'), query: { view: 'photo', photo: name } })" />
      <CheckList v-if="proof" :proof="proof" :set="after" :open="plan?.not_proved" />
      <p v-else class="muted">Prove has not been done; without its pass a reason goes on the sheet.</p>
      <p class="muted small">Carriage and waste rules, and the cell maker's data sheet, come before this sheet.</p>
    </template>
  </StageLayout>
</template>

<style scoped>
.hand {
  display: grid;
  gap: 20px;
}

.sign {
  display: grid;
  gap: 12px;
  max-width: 520px;
}

.sign > button {
  justify-self: start;
}

.signed {
  border-left: 4px solid var(--petrol);
  padding-left: 16px;
}

.papers {
  border-top: 1px solid var(--rule);
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  padding-top: 16px;
}

.paper {
  white-space: nowrap;
  align-items: center;
  border: 1px solid var(--petrol);
  display: flex;
  font-weight: 600;
  min-height: 44px;
  padding: 0 18px;
  text-decoration: none;
}

.paper:hover {
  background: var(--petrol-tint);
}

.small {
  font-size: 14px;
  margin-top: auto;
}
</style>
