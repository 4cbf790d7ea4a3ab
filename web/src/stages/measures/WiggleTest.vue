<script setup lang="ts">
import { computed, ref } from 'vue'
import { fresh, useLive } from '@/composables/useLive'
import { useWiggle } from '@/composables/useWiggle'
import { useKeep } from './useKeep'
import TextField from '@/forms/TextField.vue'

/** The live meter watched while the technician moves a part: each drop-out counted, with its moment and a tone. */
const { frame } = useLive()
const { done, lasted, running, said, start, stop, watching } = useWiggle()
const { busy, keep, refusal } = useKeep()
const part = ref('')
const dropped = ref(false)
const meter = computed(() => frame.value?.instruments.find((i) => i.kind === 'meter' && fresh(i)) ?? null)

async function store() {
  if (await keep({ kind: 'wiggle', part: part.value, seconds: lasted.value, dropouts_s: running.value?.at ?? [], dropped: dropped.value })) done()
}
</script>

<template>
  <section class="wiggle">
    <h2>Wiggle test</h2>
    <p v-if="!meter" class="muted">Put a live meter on the tap or sensor first: under Instruments.</p>
    <template v-else>
      <p class="muted">{{ meter.name }} watches. Start, then move one part at a time: plug, lead, joint. A tone marks each drop-out; the watch goes on in every view of this job until it is stopped.</p>
      <div class="line">
        <ElButton type="primary" @click="start">{{ watching ? 'Start again' : 'Start watching' }}</ElButton>
        <ElButton :disabled="!watching" @click="stop">Stop</ElButton>
        <output v-if="running" class="figure" aria-live="polite">{{ running.at.length }} {{ running.at.length === 1 ? 'drop-out' : 'drop-outs' }}</output>
      </div>
      <div v-if="lasted > 0" class="line keep">
        <TextField v-model="part" label="What was moved" maxlength="60" placeholder="sensor plug" />
        <label class="dropped"><input v-model="dropped" type="checkbox" /> the closed pack was dropped too, a hand's breadth onto wood</label>
        <ElButton :loading="busy" @click="store">Record in the job</ElButton>
      </div>
      <p v-if="said" class="error" role="alert">{{ said }}</p>
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

.dropped {
  align-items: center;
  display: flex;
  gap: 8px;
  min-height: 44px;
}

.line.keep {
  align-items: end;
}
</style>
