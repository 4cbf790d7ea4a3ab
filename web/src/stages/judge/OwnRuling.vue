<script setup lang="ts">
import { ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import FieldRow from '@/bench/FieldRow.vue'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import TextField from '@/forms/TextField.vue'

/** What the technician holds to be the cause: over the program's head with a reason, or confirmed by the repair. */
type Named = Schemas['NewRuling']['cause']
const props = defineProps<{ confirms: boolean; leading: Named | null; groups: number[] }>()
const emit = defineEmits<{ done: [] }>()
const job = useJob()
const settings = useSettings()
const { data: terms } = useTermsQuery()
const { act, busy, refusal } = useAct()
const form = ref({ cause: props.leading as Named | null, by: settings.value.technician, reason: '' })
// What leads is what is offered, until another was chosen.
watch(() => props.leading, (now) => (form.value.cause ??= now))

async function keep() {
  const { cause, by, reason } = form.value
  const body = { cause: cause as Named, groups: cause === props.leading ? props.groups : [], confirmed: props.confirms, by: by.trim(), reason }
  if (!(await act(() => settled(client.POST('/api/jobs/{job_id}/rulings', { params: { path: { job_id: job.value.facts.id } }, body }))))) return
  if (!settings.value.technician) settings.value.technician = by.trim()
  emit('done')
}
</script>

<template>
  <form class="ruling" @submit.prevent="keep">
    <FieldRow :label="confirms ? 'What it was' : 'Which cause it is'" :error="refusal?.on('cause')">
      <template #default="{ id }">
        <ElSelect :id="id" v-model="form.cause" filterable placeholder="choose the cause"><ElOption v-for="c in terms?.causes ?? []" :key="c.key" :value="c.key" :label="c.name" /></ElSelect>
      </template>
    </FieldRow>
    <TextField v-model="form.reason" :label="confirms ? 'How it showed (may stay empty)' : 'Why'" :error="refusal?.on('reason') ?? refusal?.on('body')" maxlength="400" />
    <TextField v-model="form.by" label="By" :error="refusal?.on('by')" maxlength="60" />
    <p v-if="refusal && !['cause', 'reason', 'body', 'by'].some((f) => refusal?.on(f))" class="error" role="alert">{{ refusal.message }}</p>
    <ElButton type="primary" native-type="submit" :disabled="!form.cause" :loading="busy">{{ confirms ? 'Record the cause' : 'Record the cause' }}</ElButton>
  </form>
</template>

<style scoped>
.ruling {
  display: grid;
  gap: 8px;
}
</style>
