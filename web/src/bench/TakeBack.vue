<script setup lang="ts">
import { nextTick, ref, shallowRef, useTemplateRef } from 'vue'
import { client, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import TextField from '@/forms/TextField.vue'

/** Take one thing back that was wrong, with the reason; it stays on record. `keep` does it otherwise than by the fact. */
const props = defineProps<{ fact?: number; what: string; keep?: (reason: string) => Promise<unknown> }>()
const job = useJob()
const { act, busy, refusal } = useAct()
const asking = shallowRef(false)
const reason = ref('')
const field = useTemplateRef<{ focus: () => void }>('field')

async function ask() {
  asking.value = true
  await nextTick()
  field.value?.focus()
}

async function take() {
  const params = { path: { job_id: job.value.facts.id } }
  const done = props.keep
    ? await props.keep(reason.value)
    : await act(() => settled(client.POST('/api/jobs/{job_id}/taken-back', { params, body: { fact: props.fact!, reason: reason.value } })))
  if (done) asking.value = false
}
</script>

<template>
  <button v-if="!asking" type="button" class="linklike" :aria-label="`take back ${what}`" @click="ask">take back</button>
  <form v-else class="why" @submit.prevent="take" @keydown.esc="asking = false">
    <TextField ref="field" v-model="reason" :label="`Why ${what} is taken back`" :error="refusal?.on('reason') ?? refusal?.message" maxlength="200" />
    <ElButton native-type="submit" :loading="busy">Take it back</ElButton>
  </form>
</template>

<style scoped>
.why {
  align-items: end;
  display: inline-flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
