<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { sent } from '@/forms/quantity'
import NumberField from '@/forms/NumberField.vue'
import TextField from '@/forms/TextField.vue'
import { useAct } from '@/composables/useAct'

/** Which of the small contacts are the two data wires: each read as it is, then through a resistor; nothing else goes on them. */
type Row = { contact: string; idle: string; pulled: string }
const rows = ref<Row[]>([{ contact: 'C', idle: '', pulled: '' }, { contact: 'D', idle: '', pulled: '' }])
const found = shallowRef<Schemas['DataPair'] | null>(null)
const { act, refusal } = useAct()
const volts = (text: string) => (text.trim() ? (sent(text, 'V') as number) : null)
const asked = computed(() => rows.value.filter((r) => r.contact.trim()).map((r) => ({ contact: r.contact.trim(), idle_v: volts(r.idle), pulled_v: volts(r.pulled) })))
async function tell() {
  if (!asked.value.length) return
  found.value = (await act(() => settled(client.POST('/api/measures/data-pair', { body: { contacts: asked.value } })))) ?? found.value
}
watch(asked, () => void tell(), { deep: true })
const said = (name: string) => found.value?.contacts.find((c) => c.contact === name.trim())
</script>

<template>
  <details class="pair">
    <summary>Find the two data wires among unknown contacts</summary>
    <ol>
      <li>Plus and minus first: they carry the string’s volts. Black lead on minus and it stays there.</li>
      <li>Read each small contact as it is. Above 5.6 V it is a supply: leave it.</li>
      <li>Then through 10 kΩ from 3.3 V: no more than a third of a milliampere can flow, whatever it is. No supply goes on a contact without that resistor.</li>
    </ol>
    <div v-for="(r, k) in rows" :key="k" class="contact">
      <TextField v-model="r.contact" label="Contact" maxlength="20" />
      <NumberField v-model="r.idle" label="as it is" unit="V" />
      <NumberField v-model="r.pulled" label="through 10 kΩ" unit="V" />
      <p class="says" :class="said(r.contact)?.kind">{{ said(r.contact)?.says }}</p>
    </div>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
    <p v-if="found" role="status"><strong>{{ found.says }}</strong></p>
    <button v-if="rows.length < 20" type="button" class="linklike" @click="rows.push({ contact: '', idle: '', pulled: '' })">add a contact</button>
  </details>
</template>

<style scoped>
summary {
  color: var(--petrol);
  cursor: pointer;
  font-weight: 650;
  padding: 10px 0;
}

ol {
  margin: 0 0 8px;
  padding-left: 22px;
}

.contact {
  align-items: end;
  display: grid;
  gap: 2px 12px;
  grid-template-columns: 90px 110px 140px;
  padding: 6px 0;
}

.says {
  grid-column: 1 / -1;
}

.says.data {
  color: var(--petrol);
  font-weight: 650;
}

.says.power {
  color: var(--hazard);
}
</style>
