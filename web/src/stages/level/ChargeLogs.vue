<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, shallowRef } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { queryClient } from '@/api/queries'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import LogFile from '@/logs/LogFile.vue'

/** The log of a charge that ended: drawn, taken along as CSV, or brought in where a supply's own software kept it. */
const props = defineProps<{ run: Schemas['ShownCharge'] }>()
const TaperChart = defineAsyncComponent(() => import('@/figures/TaperChart.vue'))
const job = useJob()
const { act, busy, refusal } = useAct()
const open = shallowRef(false)
const path = computed(() => ({ job_id: job.value.facts.id, charge_id: props.run.id }))
const { data: log } = useQuery({
  queryKey: computed(() => ['charge-log', props.run.id]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/charges/{charge_id}/log', { params: { path: path.value, query: { points: 800 } } })),
  enabled: open,
})
const points = computed(() => (log.value ? log.value.time_s.map((seconds, k) => ({ seconds, volts: log.value!.volts[k]!, amps: log.value!.amps[k]!, celsius: log.value!.celsius[k] ?? null })) : []))
const csv = computed(() => `/api/jobs/${path.value.job_id}/charges/${path.value.charge_id}/log.csv`)
const seen = shallowRef<{ look: Schemas['LogLook']; file: File; columns: string } | null>(null)
async function bring() {
  const { file, columns } = seen.value!
  const found = await act(() => settled(client.POST('/api/jobs/{job_id}/charges/{charge_id}/log.csv', { params: { path: path.value, query: { columns } }, body: file as unknown as string, bodySerializer: (body) => body as unknown as string, headers: { 'Content-Type': 'text/csv' } })))
  if (!found) return
  seen.value = null
  void queryClient.invalidateQueries({ queryKey: ['charge-log', props.run.id] })
}
</script>

<template>
  <details @toggle="open = ($event.target as HTMLDetailsElement).open">
    <summary>Log of group {{ run.group }}'s charge</summary>
    <template v-if="log">
      <TaperChart v-if="points.length > 1" :points="points" :low-s="run.forecast_low_s" :high-s="run.forecast_high_s" />
      <p v-else class="muted">Nothing was logged of it here.</p>
      <p class="acts"><a v-if="log.entries" :href="csv" download>{{ log.entries }} rows as CSV</a></p>
      <LogFile v-if="!run.driven && !job.assessment.frozen" quiet label="Bring in the log of what charged it" :busy="busy" @seen="seen = $event" />
      <ElButton v-if="seen" type="primary" :loading="busy" @click="bring">Record this log with the charge</ElButton>
    </template>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  </details>
</template>

<style scoped>
.acts {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
}
</style>
