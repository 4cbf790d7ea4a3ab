<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import FieldRow from '@/bench/FieldRow.vue'
import VoltsField from '@/bench/VoltsField.vue'
import { toNext } from '@/composables/focus'
import { quantity, wrongWith } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useVolts } from '@/composables/useVolts'

/** What a group reads once its charger is off: the reading that ends the charge. `shows`: what an idle output sees at its clips. */
const props = defineProps<{ run: Schemas['ShownCharge']; shows?: number | null; counted?: number | null; over?: boolean }>()
const emit = defineEmits<{ back: [] }>()
const job = useJob()
const { act, busy, refusal } = useAct()
const expected = () => ({ low: props.run.expected_low_v, high: props.run.expected_high_v })
const plausible = () => ({ low: props.run.plausible_low_v, high: props.run.plausible_high_v })
const ended = useVolts(() => `group ${props.run.group}`, expected, plausible)
// What the program counted stands there until somebody types another number, and is its own to record.
const typed = ref<string | null>(null)
const counted = computed({ get: () => typed.value ?? (props.counted ? props.counted.toFixed(2) : ''), set: (text: string) => (typed.value = text) })
const wrong = shallowRef<string | null>(null)
const charge = computed(() => ({ path: { job_id: job.value.facts.id, charge_id: props.run.id } }))
onMounted(toNext)

async function end(outcome: 'finished' | 'stopped') {
  const text = counted.value.trim()
  const went = typed.value !== null && text ? quantity(text, 'Ah') : null
  const said = typed.value === null ? null : (wrongWith(text, 'Ah') ?? ((went ?? 0) < 0 ? 'type what it counted, zero or more' : null))
  wrong.value = said && `Charger counted, Ah: ${said}, or leave it empty`
  if (wrong.value) return
  // With nothing typed, what the output itself sees at its clips counts.
  if (!ended.text.value.trim() && props.shows != null) ended.text.value = props.shows.toFixed(3)
  const read = ended.take()
  if (read === null) return
  await act(() => settled(client.POST('/api/jobs/{job_id}/charges/{charge_id}/end', { params: charge.value, body: { outcome, volts: read.volts, counted_ah: went } })))
}
</script>

<template>
  <form @submit.prevent="end('finished')">
    <FieldRow :label="`Charger off: group ${run.group} reads, V`" :error="ended.wrong.value ?? ended.questioned.value ?? refusal?.on('volts')">
      <template #default="{ id }"><VoltsField :id="id" v-model="ended.text.value" data-next class="boxed" :label="`Group ${run.group} reads, V`" :said="ended.wrong.value" :placeholder="shows == null ? undefined : shows.toFixed(3)" @accept="end('finished')" /></template>
    </FieldRow>
    <NumberField v-model="counted" label="Charger counted" unit="Ah" />
    <p v-if="ended.preview.value" class="muted wide">{{ ended.preview.value }}</p>
    <ElButton type="primary" native-type="submit" :loading="busy">It has finished</ElButton>
    <ElButton :loading="busy" @click="end('stopped')">Stopped by hand</ElButton>
    <ElButton v-if="!over" class="wide" @click="emit('back')">It goes on</ElButton>
    <p v-if="wrong" class="error wide" role="alert">{{ wrong }}</p>
    <p v-if="refusal && !refusal.on('volts')" class="error wide" role="alert">{{ refusal.message }}</p>
  </form>
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
</style>
