<script setup lang="ts">
import { computed } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useLive } from '@/composables/useLive'

/** The virtual pack's own clock: how long it has lived, how fast it goes, and its pause. */
const props = defineProps<{ jobId: number; virtual: Schemas['VirtualNow'] }>()

const { packSeconds } = useLive()
const SPEEDS = [1, 10, 60, 600]
const { act, busy, refusal } = useAct()

const lived = computed(() => {
  const s = Math.floor(packSeconds.value ?? props.virtual.clock.clock_s)
  const two = (n: number) => String(n).padStart(2, '0')
  const days = Math.floor(s / 86400)
  return `${days ? `${days} d ` : ''}${two(Math.floor(s / 3600) % 24)}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}`
})

const set = (speed: number, paused: boolean) =>
  act(() => settled(client.POST('/api/jobs/{job_id}/virtual/clock', { params: { path: { job_id: props.jobId } }, body: { speed, paused } })))
</script>

<template>
  <section class="clock">
    <div>
      <p class="label">Simulated time of this pack</p>
      <p class="mono big">{{ lived }}</p>
    </div>
    <div class="speeds" role="group" aria-label="Speed of the simulated clock">
      <button v-for="s in SPEEDS" :key="s" type="button" :aria-pressed="virtual.clock.speed === s && !virtual.clock.paused" :disabled="busy" @click="set(s, false)">×{{ s }}</button>
      <button type="button" :aria-pressed="virtual.clock.paused" :disabled="busy" @click="set(virtual.clock.speed, !virtual.clock.paused)">pause</button>
    </div>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.clock {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px 26px;
  justify-content: space-between;
}

.big {
  font-size: 34px;
  line-height: 1.1;
}

.speeds {
  display: flex;
}

.speeds button {
  background: var(--field);
  border: 1px solid var(--ink);
  border-right-width: 0;
  color: var(--ink);
  cursor: pointer;
  font-family: var(--mono);
  font-size: 16px;
  min-height: 44px;
  min-width: 58px;
}

.speeds button:last-child {
  border-right-width: 1px;
}

.speeds button[aria-pressed='true'] {
  background: var(--petrol);
  border-color: var(--petrol);
  color: var(--field);
}
</style>
