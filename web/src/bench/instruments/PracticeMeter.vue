<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient } from '@/api/queries'
import { useAct } from '@/composables/useAct'
import Choice from '@/forms/Choice.vue'
import NumberField from '@/forms/NumberField.vue'
import { sent, type Unit } from '@/forms/quantity'

/** The practice hand meter's own face: its knob, what its leads are on, and its HOLD key. */
type Knob = Schemas['MeterKnob']
const { data: here } = useQuery({ queryKey: ['ports'], queryFn: () => settled(client.GET('/api/ports')) })
const { act, busy, refusal } = useAct()
const knob = computed<Knob | null>(() => here.value?.practice ?? null)
const KNOBS = { volts: 'V DC', ohm: 'Ω', celsius: '°C' } as const
const UNITS: Record<keyof typeof KNOBS, Unit> = { volts: 'V', ohm: 'Ω', celsius: '°C' }
const USUAL = { volts: '4.112', ohm: '11240', celsius: '23.4' }
const leads = ref('4.112')
const unit = computed(() => UNITS[knob.value?.knob ?? 'volts'])
async function turn(change: Partial<Knob>) {
  const found = await act(() => settled(client.POST('/api/ports/practice/meter', { body: { ...knob.value!, ...change } })))
  if (found) queryClient.setQueryData(['ports'], found)
}
function turnTo(to: keyof typeof KNOBS) {
  leads.value = USUAL[to]
  void turn({ knob: to, at_leads: Number(USUAL[to]) })
}
</script>

<template>
  <section v-if="knob" class="face" aria-label="The practice meter">
    <h2>The practice meter</h2>
    <Choice label="Its knob" lead="Knob" :options="KNOBS" :chosen="(key) => knob!.knob === key" @choose="turnTo" />
    <form class="leads" @submit.prevent="turn({ at_leads: sent(leads, unit) as number })">
      <NumberField v-model="leads" label="Its leads are on" :unit="unit" :error="refusal?.on('at_leads')" />
      <ElButton native-type="submit" :loading="busy">Touch</ElButton>
      <ElButton :loading="busy" @click="turn({ at_leads: null })">Leads apart</ElButton>
    </form>
    <Choice label="Its HOLD key" :options="{ hold: knob.hold ? 'HOLD is pressed: release it' : 'Press HOLD' }" :chosen="() => knob!.hold" @choose="turn({ hold: !knob!.hold })" />
    <p v-if="refusal && !refusal.on('at_leads')" class="error" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.face {
  border: 1.5px dashed var(--ink);
  display: grid;
  gap: 10px;
  padding: 12px 14px;
}

h2 {
  margin: 0;
}

.leads {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
