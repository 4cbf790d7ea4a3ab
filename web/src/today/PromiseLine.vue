<script setup lang="ts">
import { computed, shallowRef } from 'vue'
import { client, settled } from '@/api/client'
import { queryClient } from '@/api/queries'
import { useAct } from '@/composables/useAct'
import { useNow } from '@/composables/useNow'
import { useSettings } from '@/composables/useSettings'
import { usePromiseQuery } from './useDay'
import { shortly } from './when'

/** When a pack may be promised, what that rests on, and the act that records it; without a job of a pack at the counter, where it is only told. */
const props = defineProps<{ job?: number }>()
const settings = useSettings()
const now = useNow()
const { data: promise } = usePromiseQuery(() => props.job ?? null)
const { act, busy, refusal } = useAct()
const by = shallowRef(settings.value.technician)
const open = shallowRef(false)
const copied = shallowRef<boolean | null>(null)
// Another day than the queue's, as a hand chooses it.
const other = shallowRef('')
const ready = computed(() => (other.value ? new Date(other.value) : promise.value?.ready ? new Date(promise.value.ready) : null))

async function record() {
  if (!ready.value || !props.job) return
  const body = { ready: ready.value.toISOString(), chance: other.value ? null : (promise.value?.chance ?? null), by: by.value }
  const view = await act(() => settled(client.POST('/api/jobs/{job_id}/promises', { params: { path: { job_id: props.job! } }, body })))
  if (!view) return
  open.value = false
  other.value = ''
  await told()
}
async function told() {
  await Promise.all(['promise', 'day'].map((key) => queryClient.invalidateQueries({ queryKey: [key] })))
}
async function copy() {
  try {
    await navigator.clipboard.writeText(promise.value!.message)
    copied.value = true
  } catch {
    copied.value = false
  }
}
const waits = (answered: boolean) =>
  act(async () => {
    const view = await settled(client.POST('/api/jobs/{job_id}/asked', { params: { path: { job_id: props.job! } }, body: { what: answered ? 'answered' : 'asked', note: '' } }))
    await told()
    return view
  })
</script>

<template>
  <section v-if="promise" class="promise" aria-label="Promise">
    <h2>{{ job ? promise.says : `Taken in now: ${promise.says.charAt(0).toLowerCase()}${promise.says.slice(1)}` }}</h2>
    <p v-if="promise.promised"><strong>Promised: {{ shortly(promise.promised, now) }}.</strong></p>
    <ul class="muted"><li v-for="line in promise.because" :key="line">{{ line }}</li></ul>
    <p v-if="promise.early && promise.late" class="muted">One in ten is ready before {{ shortly(promise.early, now) }}, one in ten after {{ shortly(promise.late, now) }}.</p>
    <template v-if="job">
      <form v-if="open" class="record" @submit.prevent="record">
        <label>Another day<input v-model="other" type="datetime-local" /></label>
        <label>Promised by<input v-model="by" maxlength="60" required autocomplete="off" /></label>
        <button type="submit" class="press" :disabled="busy || !ready || !by.trim()">Record the promise</button>
        <button type="button" class="linklike" @click="open = false">Cancel</button>
      </form>
      <div v-else class="acts">
        <button v-if="promise.ready || promise.promised" type="button" class="linklike" @click="open = true">{{ promise.promised ? 'Promise another day' : 'Promise it' }}</button>
        <button v-if="promise.message" type="button" class="linklike" @click="copy">{{ copied ? 'Copied' : 'Copy the message' }}</button>
        <button type="button" class="linklike" :disabled="busy" @click="waits(Boolean(promise.asked))">{{ promise.asked ? 'The customer has answered' : 'The customer was asked' }}</button>
      </div>
      <p v-if="copied === false" class="message">{{ promise.message }}</p>
    </template>
    <p v-if="refusal" class="error" role="alert">{{ refusal.lines.map((l) => l.message).join(' ') }}</p>
  </section>
</template>

<style scoped>
.promise {
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 6px;
  padding-top: 12px;
}

h2 {
  font-size: 18px;
}

ul {
  font-size: 14px;
  margin: 0;
  padding-left: 18px;
}

p.muted {
  font-size: 14px;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
}

.acts .linklike {
  margin: 0;
}

.record,
.record label {
  display: grid;
  gap: 4px;
}

input {
  background: var(--paper);
  border: 1px solid var(--ink);
  color: var(--ink);
  font: inherit;
  min-height: 44px;
  min-width: 0;
  padding: 0 10px;
}

.message {
  background: var(--paper);
  border: 1px solid var(--rule);
  padding: 8px 10px;
  user-select: all;
}
</style>
