<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { computed, ref } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { clock, day, duration } from '@/composables/format'
import { sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'

/** A capacity test or a watch on self-discharge put on the rail, and taken off it when it is over. */
const props = defineProps<{ kind: Schemas['NewWait']['kind'] }>()
const job = useJob()
const { act, busy, refusal } = useAct()
const value = ref(props.kind === 'capacity' ? '' : '7')
const group = ref('')
const params = computed(() => ({ path: { job_id: job.value.facts.id } }))
const open = computed(() => (job.value.assessment.waits ?? []).filter((w) => w.kind === props.kind))
const words = computed(() => (props.kind === 'capacity' ? 'capacity test' : 'self-discharge watch'))

async function begin() {
  const asked = sent(value.value, props.kind === 'capacity' ? 'A' : 'days')
  const body = { kind: props.kind, group: sent(group.value), amps: props.kind === 'capacity' ? asked : null, days: props.kind === 'capacity' ? null : asked }
  await act(() => settled(client.POST('/api/jobs/{job_id}/waits', { params: params.value, body })))
}
const over = (wait: number) => act(() => settled(client.POST('/api/jobs/{job_id}/waits/over', { params: params.value, body: { wait } })))
</script>

<template>
  <section class="wait" :aria-label="words">
    <p v-for="w in open" :key="w.id" class="on">
      <span>{{ w.group ? `Group ${w.group}` : 'The pack' }}: {{ words }} since {{ day(w.at) }} {{ clock(w.at) }}, {{ w.amps ? `at ${w.amps} A, should take ${duration(w.low_s)} – ${duration(w.high_s)}` : `for ${w.days} days` }}</span>
      <ElButton size="small" :loading="busy" @click="over(w.id)">End the wait</ElButton>
    </p>
    <form v-if="!open.length && !job.assessment.closed" @submit.prevent="begin">
      <NumberField v-model="value" bare :unit="kind === 'capacity' ? 'A' : 'days'" :label="kind === 'capacity' ? 'A test begins, at A' : 'Watch self-discharge, days'" :error="refusal?.on('amps') ?? refusal?.on('days')" />
      <NumberField v-if="kind === 'capacity'" v-model="group" label="of group, empty: the pack" whole :error="refusal?.on('group')" />
      <ElButton native-type="submit" :loading="busy">Remind me</ElButton>
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
