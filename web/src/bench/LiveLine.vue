<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { shown, stateWords, useLive } from '@/composables/useLive'
import { useWiggle } from '@/composables/useWiggle'

/** Under the pack: what the meter shows now, on whose time, and the way to the instruments. */
defineProps<{ jobId: number }>()

const { frame } = useLive()
const { running, stop, watching } = useWiggle()
const meter = computed(() => frame.value?.instruments.find((i) => i.kind === 'meter' && i.live) ?? frame.value?.instruments.find((i) => i.kind === 'meter') ?? null)
const at = computed(() => {
  const probes = frame.value?.virtual?.probes
  if (!probes || meter.value?.key !== 'stand-in-meter') return ''
  if (probes.at === 'taps') return `tap ${probes.red} on ${probes.black}`
  return { terminals: 'terminals', leads: `${probes.red_lead} on ${probes.black_lead}`, sensor: `sensor ${probes.sensor}`, air: 'probes lifted' }[probes.at]
})
const clock = computed(() => {
  const c = frame.value?.virtual?.clock
  return c ? (c.paused ? 'simulated, paused' : `simulated ×${c.speed}`) : ''
})
</script>

<template>
  <div class="line">
    <p v-if="(meter || clock) && !watching">
      <template v-if="meter">
        <span class="mono" :class="{ stale: meter.stale }">{{ meter.live ? shown(meter) : stateWords[meter.state] }}</span>
        <span v-if="meter.stale" class="muted">old</span>
        <span class="muted at">{{ at }}</span>
      </template>
      <span v-if="clock" class="muted clock">{{ clock }}</span>
    </p>
    <p v-if="watching" role="status"><RouterLink :to="`/jobs/${jobId}/measures?of=wiggle`">watching: {{ running?.at.length ?? 0 }} {{ running?.at.length === 1 ? 'drop-out' : 'drop-outs' }}</RouterLink> <button type="button" class="linklike" @click="stop()">stop</button></p>
    <nav aria-label="Beside the stages">
      <RouterLink :to="`/jobs/${jobId}/measures`">Measures</RouterLink>
      <RouterLink :to="`/jobs/${jobId}/chip`">Chip</RouterLink>
      <RouterLink :to="`/jobs/${jobId}/leads`">Leads</RouterLink>
      <RouterLink :to="`/jobs/${jobId}/instruments`">Instruments</RouterLink>
    </nav>
  </div>
</template>

<style scoped>
.line {
  border-top: 1px solid var(--rule-soft);
  font-size: 14px;
  padding: 4px 8px 4px 16px;
}

p,
nav {
  align-items: center;
  display: flex;
  gap: 12px;
  min-height: 26px;
  overflow: hidden;
  white-space: nowrap;
}

nav {
  min-height: 44px;
}

nav a {
  align-content: center;
  height: 44px;
}

.stale {
  color: var(--muted);
  text-decoration: line-through;
}

.clock {
  margin-left: auto;
}

.at {
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
