<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import FieldRow from '@/bench/FieldRow.vue'
import { sent, wrongWith } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import { useShortcuts } from '@/composables/useShortcuts'
import OwnRuling from '@/stages/judge/OwnRuling.vue'
import { useJudgement } from '@/stages/judge/useJudgement'
import TextField from '@/forms/TextField.vue'

/** The sign-off: what the repair showed to be the cause at one key, the minutes it took at another, and a name. */
const props = defineProps<{ held: boolean; passed: boolean }>()
const emit = defineEmits<{ signed: [] }>()
const job = useJob()
const settings = useSettings()
const { act, busy, refusal } = useAct()
const form = ref({ by: settings.value.technician, reason: '', outcome: 'handed_back' as 'handed_back' | 'scrap', went: '' })
const scrap = computed(() => form.value.outcome === 'scrap')
watch(() => props.held, (now) => now && (form.value.outcome = 'scrap'), { immediate: true })

const { data: judged } = useJudgement()
const { data: terms } = useTermsQuery()
const ruling = computed(() => (judged.value?.ruling?.confirmed ? judged.value.ruling : null))
type Named = Schemas['NewRuling']['cause']
const nameOf = (cause: string) => {
  const name = terms.value?.causes.find((c) => c.key === cause)?.name ?? cause
  return name.charAt(0).toUpperCase() + name.slice(1)
}
// What led before anything was done: what the repair is held against.
const { data: before } = useQuery({
  queryKey: computed(() => ['judged-before', job.value.facts.id]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/judgement/before', { params: { path: { job_id: job.value.facts.id } } })),
  retry: false,
})
const offered = computed(() => (before.value?.causes ?? []).filter((c) => c.cause !== 'sound').slice(0, 3))
const cause = ref<Named | null>(null)
const another = ref(false)
const choose = (n: number) => {
  const found = offered.value[n]
  if (found && !ruling.value) cause.value = cause.value === found.cause ? null : found.cause
}

// What was typed with each piece of work, until another sum is told.
const recorded = computed(() => (job.value.assessment.done ?? []).reduce((sum, d) => sum + (d.minutes ?? 0), 0))
const minutes = ref<string | null>(null)
const shown = computed({ get: () => minutes.value ?? (recorded.value ? String(recorded.value) : ''), set: (text: string) => (minutes.value = text) })
const took = computed(() => sent(shown.value, 'min'))
const wrongMinutes = computed(() => refusal.value?.on('minutes'))
const minutesField = ref<{ focus: () => void } | null>(null)

const path = computed(() => ({ path: { job_id: job.value.facts.id } }))
async function sign() {
  // Nothing is kept of a sign-off half of which is refused.
  if (wrongWith(shown.value, 'min')) return minutesField.value?.focus()
  const by = form.value.by.trim()
  if (cause.value && !ruling.value) {
    const groups = offered.value.find((c) => c.cause === cause.value)?.at.groups ?? []
    const body = { cause: cause.value, groups, confirmed: true, by, reason: '' }
    if (!(await act(() => settled(client.POST('/api/jobs/{job_id}/rulings', { params: path.value, body }))))) return
  }
  const body = { ...form.value, by, went: scrap.value ? form.value.went : '', minutes: took.value }
  if (!(await act(() => settled(client.POST('/api/jobs/{job_id}/sign-off', { params: path.value, body }))))) return
  if (!settings.value.technician) settings.value.technician = by
  await nextTick()
  emit('signed')
}
useShortcuts([
  { key: '1', does: 'it was the first cause', run: () => choose(0) },
  { key: '2', does: 'it was the second', run: () => choose(1) },
  { key: '3', does: 'it was the third', run: () => choose(2) },
  { key: 'm', does: 'minutes it took', run: () => minutesField.value?.focus() },
  { key: 'Enter', does: 'in the form: sign off' },
])
</script>

<template>
  <div class="signing">
    <OwnRuling v-if="another && !ruling" :key="job.facts.id" confirms :leading="null" :groups="[]" @done="another = false" />
    <form class="sign" @submit.prevent="sign">
      <p v-if="ruling">{{ nameOf(ruling.cause) }}<template v-if="ruling.groups?.length">, group{{ ruling.groups.length > 1 ? 's' : '' }} {{ ruling.groups.join(', ') }}</template>, confirmed by {{ ruling.by }}.<template v-if="ruling.reason"> {{ ruling.reason }}</template></p>
      <div v-else-if="offered.length" class="chips" role="group" aria-label="What it was">
        <span class="muted">What it was, as the repair showed</span>
        <button v-for="(c, n) in offered" :key="c.cause" type="button" class="chip" :aria-pressed="cause === c.cause" @click="choose(n)"><kbd>{{ n + 1 }}</kbd> {{ c.says }}</button>
        <button type="button" class="linklike" @click="another = !another">{{ another ? 'one of these' : 'something else' }}</button>
      </div>
      <FieldRow v-if="!held" label="The pack" group>
        <ElRadioGroup v-model="form.outcome" aria-label="The pack"><ElRadioButton value="handed_back">goes back</ElRadioButton><ElRadioButton value="scrap">is scrapped</ElRadioButton></ElRadioGroup>
      </FieldRow>
      <div class="pair">
        <TextField v-model="form.by" label="Who signs" :error="refusal?.on('by')" maxlength="60" />
        <NumberField ref="minutesField" v-model="shown" label="Minutes at the bench" bare unit="min" :error="wrongMinutes" placeholder="all together" />
      </div>
      <TextField v-if="scrap || !passed" v-model="form.reason" :label="scrap ? 'Why it is scrapped' : 'Why it goes back without a pass'" :error="refusal?.on('proof') ?? refusal?.on('reason')" maxlength="400" />
      <TextField v-if="scrap" v-model="form.went" label="Where it went" :error="refusal?.on('went')" maxlength="200" placeholder="the collection it was given to" />
      <p v-if="refusal && !['by', 'proof', 'reason', 'went', 'minutes'].some((f) => refusal?.on(f))" class="error" role="alert">{{ refusal.message }}</p>
      <ElButton type="primary" size="large" native-type="submit" :loading="busy">{{ scrap ? 'Close it as scrap' : 'Sign off' }}</ElButton>
    </form>
  </div>
</template>

<style scoped>
.signing {
  display: grid;
  gap: 16px;
}

.sign {
  display: grid;
  gap: 12px;
  max-width: 560px;
}

.pair {
  display: grid;
  gap: 12px;
  grid-template-columns: minmax(0, 1fr) 160px;
}

.sign > .el-button {
  justify-self: start;
}
</style>
