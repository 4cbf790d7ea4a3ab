<script setup lang="ts">
import { client, type Schemas, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'
import { volts } from '@/composables/format'

/** The order of cutting or joining, least voltage bare first; ticked off one at a time, by key or press. */
const props = defineProps<{ work: Schemas['WorkList']; list: 'open' | 'close'; closed: boolean }>()
const job = useJob()
const { act, busy, refusal } = useAct()
async function tick() {
  if (!props.work.next || props.closed) return
  const body = { list: props.list, joint: props.work.next, volts: null, by: null }
  await act(() => settled(client.POST('/api/jobs/{job_id}/ticks', { params: { path: { job_id: job.value.facts.id } }, body })))
}
useShortcuts(() => (props.work.next && !props.closed ? [{ key: 'd', does: `done: ${props.work.next}`, run: () => void tick() }] : []))
</script>

<template>
  <section class="steps">
    <p>No more than <strong class="mono">{{ volts(work.peak_v, 1) }} V</strong> lies bare after any step.</p>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
    <ol>
      <li v-for="s in work.steps" :key="s.joint" :class="{ done: s.done, next: s.joint === work.next }">
        <span class="what"><strong>{{ s.done ? '✓ ' : '' }}{{ s.do }} {{ s.joint }}</strong><span class="mono">{{ volts(s.exposed_v, 1) }} V bare</span></span>
        <template v-if="s.joint === work.next"><span>{{ s.because }}</span><span>Cover: {{ s.insulate.join(', ') }}.</span><ElButton type="primary" :loading="busy" :disabled="closed" @click="tick">Done <kbd>d</kbd></ElButton></template>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.steps {
  display: grid;
  gap: 8px;
}

ol {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  border-bottom: 1px solid var(--rule-soft);
  display: grid;
  gap: 4px;
  justify-items: start;
  padding: 8px 0 8px 10px;
}

.what {
  display: flex;
  gap: 14px;
  justify-content: space-between;
  width: 100%;
}

.done {
  color: var(--muted);
}

.next {
  border-left: 4px solid var(--copper);
}

kbd {
  margin-left: 8px;
}
</style>
