<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { refDebounced } from '@vueuse/core'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { client, Refusal, settled } from '@/api/client'
import { degrees, degreeUnit, fromCelsius, toCelsius } from '@/composables/degrees'
import { quantity, sent } from '@/forms/quantity'
import { useLive } from '@/composables/useLive'
import { useKeep } from './useKeep'
import FieldRow from '@/bench/FieldRow.vue'
import VoltsField from '@/bench/VoltsField.vue'

/** A temperature sensor: what it reads to degrees, and whether it can be believed. */
const { frame } = useLive()
const { busy, done, keep, refusal: unkept } = useKeep()
const form = ref({ kind: 'thermistor' as 'thermistor' | 'diodes', value: '', r25: '10000', b: '3435', junctions: '3', ambient: String(Math.round(fromCelsius(22))) })
const typed = refDebounced(form, 200)
const live = computed(() => frame.value?.instruments.find((i) => i.kind === 'meter' && i.live?.ohm != null)?.live?.ohm ?? null)

const ambient = (text: string) => {
  const typed = quantity(text, degreeUnit() === '°F' ? '°F' : '°C')
  return typed === null ? (text as never) : Number(toCelsius(typed).toFixed(2))
}
const number = (text: string, unit?: 'V' | 'Ω') => sent(text, unit) as number
const asked = computed(() => {
  const f = { ...typed.value }
  const value = sent(f.value, f.kind === 'thermistor' ? 'Ω' : 'V')
  return f.kind === 'thermistor'
    ? { kind: f.kind, ohm: value, r25_ohm: number(f.r25, 'Ω'), b_k: number(f.b), ambient_c: ambient(f.ambient), junctions: 1 }
    : { kind: f.kind, volts: value, junctions: number(f.junctions), ambient_c: ambient(f.ambient), r25_ohm: 10000, b_k: 3435 }
})
const { data, error } = useQuery({
  queryKey: computed(() => ['sensor', JSON.stringify(asked.value)]),
  queryFn: () => settled(client.POST('/api/measures/sensor', { body: asked.value })),
  retry: false,
  staleTime: Infinity,
})
const refusal = computed(() => (error.value instanceof Refusal ? error.value : null))
</script>

<template>
  <section class="sensor">
    <h2>Temperature sensor</h2>
    <div class="fields">
      <ElRadioGroup v-model="form.kind" aria-label="Kind of sensor">
        <ElRadioButton value="thermistor">thermistor</ElRadioButton>
        <ElRadioButton value="diodes">diodes in series</ElRadioButton>
      </ElRadioGroup>
      <FieldRow :label="form.kind === 'thermistor' ? 'Reads, Ω' : 'Reads, V'" :error="refusal?.on(form.kind === 'thermistor' ? 'ohm' : 'volts')"><template #default="{ id }"><VoltsField :id="id" v-model="form.value" class="boxed" :label="form.kind === 'thermistor' ? 'Reads, Ω' : 'Reads, V'" /></template></FieldRow>
      <ElButton v-if="live !== null && form.kind === 'thermistor'" @click="form.value = String(Math.round(live))">take {{ Math.round(live) }} Ω from the meter</ElButton>
      <template v-if="form.kind === 'thermistor'">
        <NumberField v-model="form.r25" :label="`At ${degrees(25)}, Ω`" bare unit="Ω" :error="refusal?.on('r25_ohm')" />
        <NumberField v-model="form.b" label="B, K" whole :error="refusal?.on('b_k')" />
      </template>
      <NumberField v-else v-model="form.junctions" label="Junctions" whole :error="refusal?.on('junctions')" />
      <NumberField v-model="form.ambient" :label="`Air, ${degreeUnit()}`" bare :unit="degreeUnit() === '°F' ? '°F' : '°C'" :error="refusal?.on('ambient_c')" />
    </div>
    <p v-if="unkept" class="error" role="alert">{{ unkept.message }}</p>
    <p v-if="data && !refusal && data.state !== 'not_read'"><ElButton :loading="busy" @click="keep({ kind: 'sensor', sensor: asked as never })">{{ done ? 'Recorded; record again' : 'Record in the job' }}</ElButton></p>
    <p v-if="data && !refusal" role="status"><strong v-if="data.state !== 'believable' && data.state !== 'not_read'" class="bad">{{ data.state }}. </strong>{{ data.says }}</p>
  </section>
</template>

<style scoped>
.sensor {
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}

.fields {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px 14px;
}

.fields :deep(.el-input) {
  width: 100px;
}

.bad {
  color: var(--hazard);
}
</style>
