<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { sent, type Unit } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'

/** A measured length of strip gives its resistivity, and that its metal. */
const props = defineProps<{ strip: Schemas['Strip']; closed: boolean }>()
const emit = defineEmits<{ found: [Schemas['Strip']['material']] }>()
const { act, busy, refusal } = useAct()
const METALS: Record<Schemas['Strip']['material'], string> = { nickel: 'nickel', plated_steel: 'plated steel', copper: 'copper', aluminium: 'aluminium', brass: 'brass' }
const text = ref({ length: '100', width: '', thickness: '', milliohm: '' })
watch(() => props.strip, (s) => (text.value = { ...text.value, width: String(s.width_mm), thickness: String(s.thickness_mm) }), { immediate: true })
const found = ref<Schemas['StripMetal'] | null>(null)
const number = (t: string, unit: Unit) => sent(t, unit) as number
async function weigh() {
  const t = text.value
  const body = { length_mm: number(t.length, 'mm'), width_mm: number(t.width, 'mm'), thickness_mm: number(t.thickness, 'mm'), milliohm: number(t.milliohm, 'mΩ'), temperature_c: 20 }
  found.value = (await act(() => settled(client.POST('/api/compute/strip-metal', { body })))) as Schemas['StripMetal'] | null
}
const metal = computed(() => (found.value?.may_be.length === 1 ? found.value.may_be[0]! : null))
</script>

<template>
  <details>
    <summary>Is it nickel?</summary>
    <form class="row" @submit.prevent="weigh">
      <NumberField v-model="text.length" label="Between the probes" unit="mm" :error="refusal?.on('length_mm')" />
      <NumberField v-model="text.width" label="Wide" unit="mm" :error="refusal?.on('width_mm')" />
      <NumberField v-model="text.thickness" label="Thick" unit="mm" :error="refusal?.on('thickness_mm')" />
      <NumberField v-model="text.milliohm" label="Four wires read" unit="mΩ" :error="refusal?.on('milliohm')" placeholder="5.8" />
      <ElButton type="primary" native-type="submit" :loading="busy">Work out the metal</ElButton>
    </form>
    <p v-if="found" class="verdict" role="status">{{ found.says }} The same piece would read {{ found.nickel_mohm.toFixed(1) }} mΩ in nickel, {{ found.steel_mohm.toFixed(1) }} mΩ in plated steel.</p>
    <ElButton v-if="metal && metal !== strip.material && !closed" @click="emit('found', metal)">Use {{ METALS[metal] }}</ElButton>
    <p class="muted">Current through the two outer wires, volts between the two inner ones. Without such a meter: a scratched piece rusts overnight in salt water if it is steel.</p>
  </details>
</template>

<style scoped>
.row {
  align-items: end;
  display: grid;
  gap: 8px 12px;
  grid-template-columns: repeat(auto-fill, minmax(130px, 1fr));
}

.verdict {
  border-left: 4px solid var(--copper);
  margin: 8px 0;
  padding-left: 10px;
}
</style>
