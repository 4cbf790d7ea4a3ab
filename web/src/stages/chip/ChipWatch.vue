<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, defineAsyncComponent, shallowRef } from 'vue'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { useJob } from '@/composables/useJob'

/** The chip's words over time, beside what an instrument at the same terminals shows. */
const props = defineProps<{ asked: Schemas['NewChipRead'] }>()
const WatchChart = defineAsyncComponent(() => import('@/figures/WatchChart.vue'))
type Moment = Schemas['WatchedWords']
const MOST = 600
const job = useJob()
const moments = shallowRef<Moment[]>([])
const problem = shallowRef<string | null>(null)
let asking = false
const { isActive, pause, resume } = useIntervalFn(async () => {
  if (asking) return
  asking = true
  try {
    const now = await settled(client.POST('/api/jobs/{job_id}/registers/watch', { params: { path: { job_id: job.value.facts.id } }, body: props.asked }))
    moments.value = [...moments.value, now].slice(-MOST)
    problem.value = null
  } catch (error) {
    if (!(error instanceof Refusal)) throw error
    problem.value = error.message
    pause()
  } finally {
    asking = false
  }
}, 1000, { immediate: false, immediateCallback: true })
function begin() {
  moments.value = []
  resume()
}
const now = computed(() => moments.value.at(-1) ?? null)
const amps = (value: number | null | undefined) => (value == null ? '–' : `${value.toFixed(2).replace('-', '−')} A`)
const volt = (value: number | null | undefined) => (value == null ? '–' : `${value.toFixed(3).replace('-', '−')} V`)
</script>

<template>
  <section class="watch">
    <p><ElButton @click="isActive ? pause() : begin()">{{ isActive ? 'Stop watching' : 'Watch it under a load' }}</ElButton> <span class="muted">Each second; nothing is kept. Hook a load or a meter up beside it.</span></p>
    <p v-if="problem" class="error" role="alert">{{ problem }}</p>
    <template v-if="now">
      <p v-if="now.state === 'silent'" class="error" role="status">The chip is silent.</p>
      <table v-else>
        <thead><tr><th></th><th>the chip says</th><th>{{ now.beside ?? 'nothing beside' }}</th></tr></thead>
        <tbody>
          <tr><th>volts</th><td class="mono">{{ volt(now.voltage_v) }}</td><td class="mono">{{ volt(now.beside_v) }}</td></tr>
          <tr><th>current</th><td class="mono">{{ amps(now.current_a) }}</td><td class="mono">{{ amps(now.beside_a) }}</td></tr>
          <tr><th>charge</th><td class="mono">{{ now.relative_soc == null ? '–' : `${Math.round(now.relative_soc * 100)} %` }}</td><td></td></tr>
        </tbody>
      </table>
      <p v-for="line in now.against ?? []" :key="line" class="wants">{{ line }}</p>
      <WatchChart v-if="moments.length > 1" :moments="moments" />
    </template>
  </section>
</template>

<style scoped>
.watch {
  display: grid;
  gap: 8px;
}

table {
  border-collapse: collapse;
  justify-self: start;
}

th {
  font-weight: 400;
  text-align: left;
}

th,
td {
  padding: 3px 24px 3px 0;
}

td {
  border-top: 1px solid var(--rule-soft);
  font-size: 20px;
}
</style>
