<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { shown, stateWords, useLive } from '@/composables/useLive'

/** Under the pack: what the meter shows now, on whose time, and the way to the instruments. */
defineProps<{ jobId: number }>()

const { frame } = useLive()
const meter = computed(() => frame.value?.instruments.find((i) => i.kind === 'meter' && i.live) ?? frame.value?.instruments.find((i) => i.kind === 'meter') ?? null)
const at = computed(() => {
  const probes = frame.value?.virtual?.probes
  if (!probes || meter.value?.key !== 'stand-in-meter') return ''
  if (probes.at === 'taps') return `tap ${probes.red} on ${probes.black}`
  return { terminals: 'terminals', sensor: `sensor ${probes.sensor}`, air: 'probes lifted' }[probes.at]
})
const clock = computed(() => {
  const c = frame.value?.virtual?.clock
  return c ? (c.paused ? 'paused' : `×${c.speed}`) : ''
})
</script>

<template>
  <p class="line">
    <template v-if="meter">
      <span class="mono">{{ meter.live ? shown(meter) : stateWords[meter.state] }}</span>
      <span class="muted at">{{ at }}</span>
    </template>
    <span v-if="clock" class="muted clock">{{ clock }}</span>
    <RouterLink :to="`/jobs/${jobId}/measures`" class="first">Measures</RouterLink>
    <RouterLink :to="`/jobs/${jobId}/leads`">Leads</RouterLink>
    <RouterLink :to="`/jobs/${jobId}/instruments`">Instruments</RouterLink>
  </p>
</template>

<style scoped>
.line {
  align-items: center;
  border-top: 1px solid var(--rule-soft);
  display: flex;
  font-size: 14px;
  gap: 10px;
  min-height: 40px;
  overflow: hidden;
  padding: 0 8px 0 16px;
  white-space: nowrap;
}

.line .first {
  margin-left: auto;
}

@media (max-width: 1100px) {
  .clock {
    display: none;
  }
}

.at {
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
