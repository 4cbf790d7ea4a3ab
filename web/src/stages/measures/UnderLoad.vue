<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref } from 'vue'
import { client, settled } from '@/api/client'
import { sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import ProbeRun from '@/stages/probe/ProbeRun.vue'

/** A set of readings while a current flows: begun with the current, read like any run. */
const job = useJob()
const { act, busy, refusal } = useAct()
const condition = ref<'load' | 'charging'>('load')
const amps = ref('')
const set = computed(() => job.value.assessment.load)
const open = computed(() => set.value && set.value.reconciled.groups.some((g) => !g.determined))

async function begin() {
  const current_a = sent(amps.value, 'A') as number
  await act(() => settled(client.POST('/api/jobs/{job_id}/sets', { params: { path: { job_id: job.value.facts.id } }, body: { purpose: 'load', condition: condition.value, current_a, last_current_a: 0 } })))
}
</script>

<template>
  <section class="load">
    <h2>Under load or charge</h2>
    <ProbeRun v-if="open" :key="set!.set.id" purpose="load"><template #line>Run {{ set!.set.condition === 'load' ? 'under load' : 'while charging' }} at {{ set!.set.current_a }} A: keep it flowing until the last point</template></ProbeRun>
    <form v-else class="begin" @submit.prevent="begin">
      <ElRadioGroup v-model="condition" aria-label="What flows">
        <ElRadioButton value="load">a load</ElRadioButton>
        <ElRadioButton value="charging">a charger</ElRadioButton>
      </ElRadioGroup>
      <NumberField v-model="amps" label="Current" unit="A" :error="refusal?.on('current_a')" />
      <ElButton type="primary" native-type="submit" :loading="busy">Begin a set</ElButton>
    </form>
    <p v-if="refusal && !refusal.on('current_a')" class="error" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.load {
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}

.begin {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
}

.begin :deep(.el-input) {
  width: 110px;
}
</style>
