<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef, triggerRef, watch } from 'vue'
import { fresh, useLive } from '@/composables/useLive'
import { tone } from '@/composables/useVoice'
import FieldRow from '@/bench/FieldRow.vue'
import { Dropouts } from './dropouts'
import { useKeep } from './useKeep'

/** The live meter watched while the technician moves a part: each drop-out counted, with its moment and a tone. */
const { every, frame } = useLive()
const { busy, keep, refusal } = useKeep()
const part = ref('')
const began = shallowRef(0)
const lasted = shallowRef(0)
const kept = shallowRef(false)
const meter = computed(() => frame.value?.instruments.find((i) => i.kind === 'meter' && fresh(i)) ?? null)
const value = computed(() => meter.value?.live?.ohm ?? meter.value?.live?.volts ?? null)
const running = shallowRef<Dropouts | null>(null)
const watching = shallowRef(false)

watch(frame, (now) => {
  // A meter that says nothing has not seen a drop-out.
  if (!watching.value || !now || !running.value || !meter.value) return
  if (running.value.see(now.at, value.value)) tone('questioned')
  triggerRef(running)
})

function start() {
  began.value = Date.now() / 1000
  lasted.value = 0
  kept.value = false
  running.value = new Dropouts(began.value)
  watching.value = true
}

function stop() {
  watching.value = false
  lasted.value = Math.max(Date.now() / 1000 - began.value, 0.1)
}

watch(watching, every)
onBeforeUnmount(() => every(false))

async function store() {
  kept.value = await keep({ kind: 'wiggle', part: part.value, seconds: lasted.value, dropouts_s: running.value?.at ?? [] })
}
</script>

<template>
  <section class="wiggle">
    <h2>Wiggle test</h2>
    <p v-if="!meter" class="muted">Put a live meter on the tap or sensor first: under Instruments.</p>
    <template v-else>
      <p class="muted">{{ meter.name }} watches. Start, then move one part at a time: plug, lead, joint. A tone marks each drop-out.</p>
      <div class="line">
        <ElButton type="primary" @click="start">{{ watching ? 'Start again' : 'Start watching' }}</ElButton>
        <ElButton :disabled="!watching" @click="stop">Stop</ElButton>
        <output v-if="running" class="figure" aria-live="polite">{{ running.at.length }} {{ running.at.length === 1 ? 'drop-out' : 'drop-outs' }}</output>
      </div>
      <div v-if="lasted > 0 && !kept" class="line keep">
        <FieldRow label="What was moved"><template #default="{ id }"><ElInput :id="id" v-model="part" maxlength="60" placeholder="sensor plug" /></template></FieldRow>
        <ElButton :loading="busy" @click="store">Keep with the job</ElButton>
      </div>
      <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
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

.line {
  align-items: center;
  display: flex;
  gap: 14px;
}

.line.keep {
  align-items: end;
}
</style>
