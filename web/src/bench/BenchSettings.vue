<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { client, Refusal, settled } from '@/api/client'
import { queryClient, useMeterQuery, useTermsQuery } from '@/api/queries'
import { parseNumber } from '@/composables/parseVolts'
import { dark, useSettings } from '@/composables/useSettings'
import { tone } from '@/composables/useVoice'
import FieldRow from '@/bench/FieldRow.vue'
import OpenFrame from './OpenFrame.vue'

const settings = useSettings()
const { data: meter } = useMeterQuery()
const { data: terms } = useTermsQuery()
const form = ref({ percent: '', digits: '', resolution_v: '' })
watch(meter, (m) => {
  if (m) form.value = { percent: String(m.percent), digits: String(m.digits), resolution_v: String(m.resolution_v) }
}, { immediate: true })

const refusal = shallowRef<Refusal | null>(null)
const kept = shallowRef(false)
const number = (text: string) => (parseNumber(text) ?? text) as number
async function keep() {
  refusal.value = null
  kept.value = false
  try {
    const body = { percent: number(form.value.percent), digits: number(form.value.digits), resolution_v: number(form.value.resolution_v) }
    queryClient.setQueryData(['meter'], await settled(client.POST('/api/meter', { body })))
    kept.value = true
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    refusal.value = error
  }
}
const sources = computed(() => Object.values(terms.value?.curve_sources ?? {}))
</script>

<template>
  <OpenFrame title="Bench settings" under="This bench, this browser">
    <main class="settings">
      <h1>What this bench works with</h1>
      <form class="part" @submit.prevent="keep">
        <h2>The meter</h2>
        <p class="muted">As its maker states it. Every reading's uncertainty, and so every limit, comes from this; sets already begun keep theirs.</p>
        <div class="three">
          <FieldRow label="± percent of reading" :error="refusal?.on('percent')"><template #default="{ id }"><ElInput :id="id" v-model="form.percent" inputmode="decimal" /></template></FieldRow>
          <FieldRow label="± digits" :error="refusal?.on('digits')"><template #default="{ id }"><ElInput :id="id" v-model="form.digits" inputmode="decimal" /></template></FieldRow>
          <FieldRow label="one digit is, V" :error="refusal?.on('resolution_v')"><template #default="{ id }"><ElInput :id="id" v-model="form.resolution_v" inputmode="decimal" /></template></FieldRow>
        </div>
        <div class="keep"><ElButton type="primary" native-type="submit">Keep</ElButton><span v-if="kept" role="status">Kept for sets begun from now on.</span></div>
      </form>
      <section class="part">
        <h2>Hands and ears</h2>
        <FieldRow label="Pedal key: click the field and press the pedal">
          <template #default="{ id }"><ElInput :id="id" :model-value="settings.pedal" readonly @keydown.prevent="(e: Event | KeyboardEvent) => 'key' in e && e.key !== 'Tab' && (settings.pedal = e.key)" /></template>
        </FieldRow>
        <label class="switch"><ElSwitch v-model="settings.tone" aria-label="A tone at each reading" @change="settings.tone && tone('accepted')" /> A tone at each reading</label>
        <label class="switch"><ElSwitch v-model="settings.speech" aria-label="Say the next point aloud" /> Say the next point aloud</label>
      </section>
      <section class="part">
        <h2>Eyes</h2>
        <label class="switch"><ElSwitch v-model="dark" aria-label="Dark scheme" /> Dark scheme for late work (else as the system)</label>
        <FieldRow label="Who works here"><template #default="{ id }"><ElInput :id="id" v-model="settings.technician" maxlength="60" /></template></FieldRow>
      </section>
    </main>
    <aside class="side">
      <h2>Where the curves come from</h2>
      <ul><li v-for="s in sources" :key="s">{{ s }}</li></ul>
      <p class="muted">Used where a rest voltage is turned into charge, and in every forecast.</p>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.settings {
  display: grid;
  gap: 26px;
  grid-auto-rows: max-content;
  min-height: 0;
  overflow: auto;
  padding: 24px 28px;
}

.part {
  display: grid;
  gap: 10px;
  max-width: 640px;
}

.three {
  display: grid;
  gap: 14px;
  grid-template-columns: repeat(3, 1fr);
}

.keep {
  align-items: center;
  display: flex;
  gap: 14px;
}

.switch {
  align-items: center;
  display: flex;
  gap: 12px;
  min-height: 44px;
}

.side {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  display: grid;
  gap: 10px;
  grid-auto-rows: max-content;
  min-height: 0;
  overflow: auto;
  padding: 24px 20px;
}

ul {
  margin: 0;
  padding-left: 18px;
}
</style>
