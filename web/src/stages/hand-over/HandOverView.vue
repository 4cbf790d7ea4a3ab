<script setup lang="ts">
import { computed, ref } from 'vue'
import { client, settled } from '@/api/client'
import StageLayout from '@/bench/StageLayout.vue'
import { clock, day, volts } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import CheckList from '@/stages/prove/CheckList.vue'
import FieldRow from '@/bench/FieldRow.vue'

const job = useJob()
const settings = useSettings()
const { act, busy, refusal } = useAct()
const facts = computed(() => job.value.facts)
const signed = computed(() => facts.value.sign_off ?? null)
const proof = computed(() => job.value.assessment.proof)
const passed = computed(() => proof.value?.result === 'pass')
const form = ref({ by: settings.value.technician, reason: '' })

const first = computed(() => job.value.assessment.probe)
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

const sheet = computed(() => `/api/jobs/${facts.value.id}/sheet.pdf`)
const exported = computed(() => `/api/jobs/${facts.value.id}/export`)

async function sign() {
  const view = await act(() => settled(client.POST('/api/jobs/{job_id}/sign-off', { params: { path: { job_id: facts.value.id } }, body: form.value })))
  if (view && !settings.value.technician) settings.value.technician = form.value.by
}
</script>

<template>
  <StageLayout>
    <section class="hand">
      <h1>{{ signed ? (signed.simulated ? 'Signed as a simulation' : 'Signed and handed over') : passed ? 'Ready to hand over' : 'Not proved' }}</h1>
      <table>
        <thead><tr><th>{{ facts.intake.pack_name }}</th><th>as it came</th><th>as it goes</th></tr></thead>
        <tbody>
          <tr v-for="row in rows" :key="row.what"><td class="muted">{{ row.what }}</td><td v-from="{ what: `${row.what}, as it came`, set: first, groups: 'all' }">{{ row.before }}</td><td v-from="{ what: `${row.what}, as it goes`, set: after, groups: 'all' }"><strong>{{ row.after }}</strong></td></tr>
        </tbody>
      </table>
      <section v-if="job.assessment.compared.length">
        <h2>Done</h2>
        <p v-for="c in job.assessment.compared" :key="c.charge_id">Group {{ c.group }} levelled. {{ c.says }}</p>
      </section>

      <section v-if="signed" class="signed">
        <p>Signed by <strong>{{ signed.by }}</strong>, {{ day(signed.at) }} {{ clock(signed.at) }}, with Saldatura {{ signed.program_version }}. Inputs, results and the program's version are frozen as they were.</p>
        <p v-if="signed.reason">Handed back without a pass because: {{ signed.reason }}</p>
      </section>
      <form v-else class="sign" @submit.prevent="sign">
        <FieldRow label="Who signs" :error="refusal?.on('by')">
          <template #default="{ id }"><ElInput :id="id" v-model="form.by" maxlength="60" /></template>
        </FieldRow>
        <FieldRow v-if="!passed" label="Why it goes back without a pass" :error="refusal?.on('proof') ?? refusal?.on('reason')">
          <template #default="{ id }"><ElInput :id="id" v-model="form.reason" maxlength="400" /></template>
        </FieldRow>
        <p v-if="refusal && !refusal.on('by') && !refusal.on('proof') && !refusal.on('reason')" class="error" role="alert">{{ refusal.message }}</p>
        <ElButton type="primary" size="large" native-type="submit" :loading="busy">Sign off</ElButton>
      </form>
      <div class="papers">
        <a :href="sheet" target="_blank" rel="noopener" class="paper">{{ signed ? 'Print the sheet' : 'See the sheet as a draft' }}</a>
        <a :href="exported" download class="paper">Export the whole job</a>
      </div>
    </section>
    <template #judgement>
      <CheckList v-if="proof" :proof="proof" :set="after" />
      <p v-else class="muted">Prove has not been done; without its pass a reason goes on the sheet.</p>
      <p class="muted small">Carriage and waste rules, and the cell maker's data sheet, go before this sheet.</p>
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
  gap: 12px;
  padding-top: 16px;
}

.paper {
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
