<script setup lang="ts">
import { computed, shallowRef, triggerRef, watch } from 'vue'
import { useLive } from '@/composables/useLive'
import { tone } from '@/composables/useVoice'
import { Dropouts } from './dropouts'

/** The live meter watched while the technician moves a part: each drop-out counted, with its moment and a tone. */
const { frame } = useLive()
const meter = computed(() => frame.value?.instruments.find((i) => i.kind === 'meter' && i.live) ?? null)
const value = computed(() => meter.value?.live?.ohm ?? meter.value?.live?.volts ?? null)
const running = shallowRef<Dropouts | null>(null)
const watching = shallowRef(false)

watch(() => meter.value?.read_at, (at) => {
  if (!watching.value || at == null || !running.value) return
  if (running.value.see(at, value.value)) tone('questioned')
  triggerRef(running)
})

function start() {
  running.value = new Dropouts(Date.now() / 1000)
  watching.value = true
}
</script>

<template>
  <section class="wiggle">
    <h2>Wiggle test</h2>
    <p v-if="!meter" class="muted">Put a live meter on the tap or sensor first: under Instruments.</p>
    <template v-else>
      <p class="muted">{{ meter.name }} watches. Start, then move one part at a time: plug, lead, joint. A tone marks each drop-out.</p>
      <div class="row">
        <ElButton type="primary" @click="start">{{ watching ? 'Start again' : 'Start watching' }}</ElButton>
        <ElButton :disabled="!watching" @click="watching = false">Stop</ElButton>
        <output v-if="running" class="figure" aria-live="polite">{{ running.at.length }} {{ running.at.length === 1 ? 'drop-out' : 'drop-outs' }}</output>
      </div>
      <p v-if="running?.at.length" class="mono">after {{ running.at.map((s) => `${s.toFixed(1)} s`).join(', ') }}</p>
    </template>
  </section>
</template>

<style scoped>
.wiggle {
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}

.row {
  align-items: center;
  display: flex;
  gap: 14px;
}
</style>
