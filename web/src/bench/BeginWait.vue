<script setup lang="ts">
import { computed, ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { clock, day, duration } from '@/composables/format'
import { parseNumber } from '@/composables/parseVolts'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import FieldRow from './FieldRow.vue'

/** A capacity test or a watch on self-discharge put on the rail, and taken off it when it is over. */
const props = defineProps<{ kind: Schemas['NewWait']['kind'] }>()
const job = useJob()
const { act, busy, refusal } = useAct()
const value = ref(props.kind === 'capacity' ? '' : '7')
const group = ref('')
const params = computed(() => ({ path: { job_id: job.value.facts.id } }))
const open = computed(() => (job.value.assessment.waits ?? []).filter((w) => w.kind === props.kind))
const words = computed(() => (props.kind === 'capacity' ? 'capacity test' : 'self-discharge watch'))
const number = (text: string) => (text.trim() ? (parseNumber(text) ?? Number.NaN) : null)

async function begin() {
  const of = number(value.value)
  const body = { kind: props.kind, group: number(group.value), amps: props.kind === 'capacity' ? of : null, days: props.kind === 'capacity' ? null : of }
  await act(() => settled(client.POST('/api/jobs/{job_id}/waits', { params: params.value, body })))
}
const over = (wait: number) => act(() => settled(client.POST('/api/jobs/{job_id}/waits/over', { params: params.value, body: { wait } })))
</script>

<template>
  <section class="wait" :aria-label="words">
    <p v-for="w in open" :key="w.id" class="on">
      <span>{{ w.group ? `Group ${w.group}` : 'The pack' }}: {{ words }} since {{ day(w.at) }} {{ clock(w.at) }}, {{ w.amps ? `at ${w.amps} A, should take ${duration(w.low_s)} – ${duration(w.high_s)}` : `for ${w.days} days` }}</span>
      <ElButton size="small" :loading="busy" @click="over(w.id)">It is over</ElButton>
    </p>
    <form v-if="!open.length && !job.assessment.closed" @submit.prevent="begin">
      <FieldRow :label="kind === 'capacity' ? 'A test begins, at A' : 'Watch self-discharge, days'" :error="refusal?.on('amps') ?? refusal?.on('days')"><template #default="{ id }"><ElInput :id="id" v-model="value" inputmode="decimal" /></template></FieldRow>
      <FieldRow v-if="kind === 'capacity'" label="of group, empty: the pack" :error="refusal?.on('group')"><template #default="{ id }"><ElInput :id="id" v-model="group" inputmode="numeric" /></template></FieldRow>
      <ElButton native-type="submit" :loading="busy">Put it on the rail</ElButton>
    </form>
    <p v-if="refusal && !['amps', 'days', 'group'].some((f) => refusal!.on(f))" class="error" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.wait,
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
}

form {
  align-items: end;
}

form :deep(.el-input) {
  width: 150px;
}

.on {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
}
</style>
