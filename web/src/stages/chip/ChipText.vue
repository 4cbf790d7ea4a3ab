<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import FileButton from '@/forms/FileButton.vue'
import Choice from '@/forms/Choice.vue'

/** Registers as another tool printed them: pasted or from a file, looked at, then kept. */
const job = useJob()
const path = computed(() => ({ params: { path: { job_id: job.value.facts.id } } }))
const text = ref('')
const base = ref<'hex' | 'decimal' | null>(null)
const swapped = ref<boolean | null>(null)
const found = shallowRef<Schemas['RegisterPreview'] | null>(null)
const { act, busy, refusal } = useAct()
async function look() {
  found.value = await act(() => settled(client.POST('/api/jobs/{job_id}/registers/text', { ...path.value, body: { text: text.value, base: base.value, swapped: swapped.value, fed: false } })))
}
async function keep() {
  const view = await act(() => settled(client.POST('/api/jobs/{job_id}/measures', { ...path.value, body: found.value!.measure })))
  if (view) {
    text.value = ''
    found.value = base.value = swapped.value = null
  }
}
async function file(chosen: File) {
  text.value = await chosen.text()
  await look()
}
watch(text, () => (found.value = null))
const speaking = computed(() => (found.value?.words ?? []).filter((w) => w.says || w.odd))
const set = (key: 'hex' | 'decimal') => {
  base.value = key
  void look()
}
const turn = () => {
  swapped.value = !found.value!.swapped
  void look()
}
</script>

<template>
  <details class="text">
    <summary>Registers from a text: paste what another tool printed</summary>
    <form @submit.prevent="look">
      <ElInput v-model="text" type="textarea" :rows="5" aria-label="Registers as printed" placeholder="0x09 0x2e43&#10;0x0a 0xfe0c" maxlength="64000" class="mono" />
      <div class="acts"><ElButton native-type="submit" :loading="busy" :disabled="!text.trim()">Look at it</ElButton><FileButton quiet label="Choose a file" accept=".txt,.csv,.log,text/plain" :busy="busy" @chosen="file" /></div>
    </form>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
    <Choice v-if="refusal?.on('base')" label="How its values are written" lead="They are" :options="{ hex: 'hex', decimal: 'decimal' }" :chosen="(key) => base === key" @choose="set" />
    <template v-if="found">
      <p>{{ speaking.length }} of {{ found.words.length }} words say something, read as {{ found.base }}{{ found.swapped ? ', the bytes of each word exchanged' : '' }}. <button type="button" class="linklike" @click="turn">{{ found.swapped ? 'Read the bytes as written' : 'Exchange the bytes of each word' }}</button></p>
      <table>
        <tbody><tr v-for="w in speaking.slice(0, 12)" :key="w.number"><td class="mono">{{ w.number }}</td><td>{{ w.name }}</td><td>{{ w.odd ? 'cannot be' : w.says }}</td></tr></tbody>
      </table>
      <p v-for="c in found.says.contradictions ?? []" :key="c.because" class="wants">{{ c.because }}</p>
      <p v-if="found.left_out.length" class="muted">Left out: {{ found.left_out.slice(0, 3).join(' · ') }}{{ found.left_out.length > 3 ? ` and ${found.left_out.length - 3} more lines` : '' }}</p>
      <ElButton type="primary" :loading="busy" @click="keep">Record these words in the job</ElButton>
    </template>
  </details>
</template>

<style scoped>
summary {
  color: var(--petrol);
  cursor: pointer;
  font-weight: 650;
  padding: 10px 0;
}

.text[open] {
  display: grid;
  gap: 8px;
}

.acts {
  align-items: center;
  display: flex;
  gap: 14px;
  margin-top: 8px;
}

table {
  border-collapse: collapse;
}

td {
  border-top: 1px solid var(--rule-soft);
  padding: 3px 18px 3px 0;
}
</style>
