<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { quantity, sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import FieldRow from '@/bench/FieldRow.vue'

/** Give a job a virtual pack: how full it is, and what is wrong with it. */
const props = defineProps<{ jobId: number }>()

const { act, busy, refusal } = useAct()
const soc = ref('60')
const fault = ref('none')
const group = ref('1')
const chip = ref('none')
const CHIPS: Record<string, { name: string; make: () => unknown }> = {
  none: { name: 'none', make: () => null },
  sound: { name: 'a sound one', make: () => ({}) },
  silent: { name: 'one that answers only while it is fed', make: () => ({ faults: [{ kind: 'silent_until_fed' }] }) },
  noisy: { name: 'one with noise on its wires', make: () => ({ faults: [{ kind: 'pec_errors', size: 3 }] }) },
  frozen: { name: 'one whose current word stands still', make: () => ({ faults: [{ kind: 'frozen_word', number: 10 }] }) },
  moved: { name: 'one at another address', make: () => ({ address: 12 }) },
}
const FAULTS: Record<string, { name: string; make: (at: number) => unknown }> = {
  none: { name: 'nothing', make: () => null },
  low: { name: 'a group run flat', make: (at) => ({ on: 'cell', kind: 'run_flat', group: at, size: 1.2 }) },
  weak: { name: 'a cell of half its capacity', make: (at) => ({ on: 'cell', kind: 'low_capacity', group: at, size: 0.5 }) },
  leak: { name: 'a leaking cell', make: (at) => ({ on: 'cell', kind: 'soft_short', group: at, size: 100 }) },
  torn: { name: 'a torn tab', make: (at) => ({ on: 'joint', kind: 'torn_tab', group: at }) },
  wire: { name: 'an open sense wire', make: (at) => ({ on: 'wire', kind: 'open', tap: at, to_lower_ohm: 4e6, to_upper_ohm: 7e6 }) },
  shaky: { name: 'a sense wire that opens when moved', make: (at) => ({ on: 'wire', kind: 'intermittent', tap: at }) },
  sensor: { name: 'a dirty sensor connector', make: () => ({ on: 'sensor', kind: 'dirty', ohm: 1800 }) },
}

async function make() {
  const percent = quantity(soc.value, '%')
  const made = FAULTS[fault.value]!.make(sent(group.value) as number)
  const body = { soc: [percent === null ? soc.value : percent / 100], faults: made ? [made] : [], chip: CHIPS[chip.value]!.make(), seed: props.jobId } as unknown as Schemas['PackSpec']
  await act(() => settled(client.POST('/api/jobs/{job_id}/virtual', { params: { path: { job_id: props.jobId } }, body })))
}
</script>

<template>
  <form class="new" @submit.prevent="make">
    <NumberField v-model="soc" label="State of charge" unit="%" :error="refusal?.on('soc')" />
    <FieldRow label="What is wrong with it">
      <template #default="{ id }"><ElSelect :id="id" v-model="fault" aria-label="What is wrong with it"><ElOption v-for="(f, key) in FAULTS" :key="key" :value="key" :label="f.name" /></ElSelect></template>
    </FieldRow>
    <NumberField v-if="fault !== 'none' && fault !== 'sensor'" v-model="group" :label="fault === 'wire' || fault === 'shaky' ? 'at tap' : 'in group'" whole :error="refusal?.on('faults')" />
    <FieldRow label="Its chip">
      <template #default="{ id }"><ElSelect :id="id" v-model="chip" aria-label="Its chip"><ElOption v-for="(c, key) in CHIPS" :key="key" :value="key" :label="c.name" /></ElSelect></template>
    </FieldRow>
    <ElButton type="primary" native-type="submit" :loading="busy">Put the pack on the bench</ElButton>
    <p v-if="refusal && !refusal.on('soc') && !refusal.on('faults')" class="error" role="alert">{{ refusal.message }}</p>
  </form>
</template>

<style scoped>
.new {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 12px 18px;
}

.new :deep(.el-input) {
  width: 150px;
}

.new :deep(.el-select) {
  width: 280px;
}
</style>
