<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { client, type Schemas, settled } from '@/api/client'
import { duration, timeLeft, volts } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useNow } from '@/composables/useNow'
import { useSettings } from '@/composables/useSettings'
import { useShortcuts } from '@/composables/useShortcuts'
import BoardFields from '@/bench/BoardFields.vue'
import ReadAt from '@/bench/ReadAt.vue'
import TextField from '@/forms/TextField.vue'
import Choice from '@/forms/Choice.vue'

/** A work list, least voltage bare first: one action a step, ticked off by key or pedal, with the reading that a step asks for. */
const props = defineProps<{ work: Schemas['WorkList']; lists?: Schemas['WorkList'][]; closed: boolean; otherSide: string | null; tooThin?: string | null }>()
const job = useJob()
const now = useNow()
const settings = useSettings()
const { act, busy, refusal } = useAct()
const step = computed(() => props.work.steps.find((s) => s.key === props.work.next) ?? null)
const done = computed(() => props.work.steps.filter((s) => s.done).length)
// What cools or cures: the latest wait of the steps that are done, of whichever list.
const waited = computed(() => (props.lists ?? [props.work]).flatMap((l) => l.steps).filter((s) => s.until))
const until = computed(() => Math.max(0, ...waited.value.map((s) => new Date(s.until!).getTime())))
const left = computed(() => until.value - now.value)
const early = ref(false)
const where = ref<'to waste' | 'kept' | 'drawer'>('to waste')
const board = ref<Schemas['Board'] | null>(null)
const reason = ref('')
// By what the wait is called; cells that rest overnight are not said to cool.
const WAITS = { cure: 'cures', cool: 'cools', rest: 'rests' } as const
const waits = computed(() => WAITS[waited.value.find((s) => new Date(s.until!).getTime() === until.value)?.wait?.kind ?? 'cool'])
const WHERE = { 'to waste': 'to the waste', kept: 'kept by the customer', drawer: 'into the drawer' } as const
watch(until, () => (early.value = false))

async function tick(read: number | null) {
  if (!step.value || props.closed) return null
  const body = { list: props.work.name, step: step.value.key, volts: read, by: settings.value.technician || null, early: early.value, where: where.value, reason: step.value.joins ? reason.value.trim() : '', board: step.value.puts_board ? board.value : null }
  return act(() => settled(client.POST('/api/jobs/{job_id}/ticks', { params: { path: { job_id: job.value.facts.id } }, body })))
}
// The stand-in's probes go to the pin that the step reads.
const probes = computed(() => (step.value?.asks && step.value.taps?.length ? { at: 'taps' as const, black: 0, red: step.value.taps.at(-1)! } : null))
const press = computed(() => (step.value && !step.value.asks && !props.closed ? () => void tick(null) : undefined))
useShortcuts(() => (press.value ? [{ key: 'd', does: `done: ${step.value!.action}`, run: press.value }, { key: settings.value.pedal, does: 'the same by the pedal', run: press.value }] : []))
</script>

<template>
  <section class="steps">
    <p class="muted">{{ done }} of {{ work.steps.length }} done; no more than <strong class="mono">{{ volts(work.peak_v, 1) }} V</strong> lies bare after any step.</p>
    <p v-if="work.stop" class="error" role="alert">{{ work.stop }}</p>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
    <p v-if="left > 0" class="waits">It {{ waits }}: <span class="mono">{{ timeLeft(left) }}</span> left. <label><input v-model="early" type="checkbox" /> it has already, go on</label></p>
    <ol>
      <li v-for="s in work.steps.filter((one) => !one.done)" :key="s.key" :class="{ next: s.key === work.next }" :aria-current="s.key === work.next ? 'step' : undefined">
        <span class="what"><strong>{{ s.action }}</strong><span class="mono">{{ s.volts !== null && s.volts !== undefined ? `read ${volts(s.volts, 2)} V` : `${volts(s.exposed_v, 1)} V bare` }}</span></span>
        <template v-if="s.key === work.next">
          <span>{{ s.because }}</span>
          <span v-if="otherSide">{{ otherSide }}</span>
          <span v-if="s.insulate?.length">Cover: {{ s.insulate.join(', ') }}.</span>
          <span v-if="s.tool" class="tool">{{ s.tool }}</span>
          <span v-if="s.puts_in?.length" class="muted">With this the new cells count as in: what was read of the old ones does not hold any more.</span>
          <Choice v-if="s.leaves_out" label="Where its cells went" lead="Its cells go" :options="WHERE" :chosen="(key) => where === key" @choose="(key) => (where = key)" />
          <BoardFields v-if="s.puts_board" v-model="board" />
          <RouterLink v-if="s.wants" :to="{ query: { of: s.wants === 'coupon' ? 'welds' : 'map' } }">{{ s.wants === 'coupon' ? 'Pull it in the lab' : 'To the polarity run' }}</RouterLink>
          <template v-if="s.joins && tooThin"><span>{{ tooThin }}</span><TextField v-model="reason" label="Why it is joined all the same" maxlength="400" :error="refusal?.on('reason')" /></template>
          <span v-if="s.wait" class="muted">Then it {{ WAITS[s.wait.kind] }} for {{ duration(s.wait.minutes * 60) }}.</span>
          <ReadAt v-if="s.asks && !closed" :key="s.key" :what="s.asks.what" :label="`${s.joint} reads, V`" :expected="s.asks.expected_v" :most="60" :probes="probes" :busy="busy" :keep="tick" />
          <ElButton v-else type="primary" :loading="busy" :disabled="closed" @click="tick(null)">Step done <kbd>d</kbd></ElButton>
        </template>
      </li>
    </ol>
    <details v-if="done" :open="!work.next">
      <summary>What is done</summary>
      <ol><li v-for="s in work.steps.filter((one) => one.done)" :key="s.key" class="done"><span class="what"><strong>✓ {{ s.action }}</strong><span class="mono">{{ s.volts !== null && s.volts !== undefined ? `read ${volts(s.volts, 2)} V` : '' }}</span></span></li></ol>
    </details>
    <p v-if="!work.next" class="whole">This list is done.</p>
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

.what .mono {
  white-space: nowrap;
}

.done {
  color: var(--muted);
}

.next {
  border-left: 4px solid var(--copper);
  padding-block: 12px;
}

.next .what {
  font-size: 20px;
}

.tool {
  background: repeating-linear-gradient(-45deg, var(--hazard-tint) 0 6px, transparent 6px 12px);
  padding: 6px 10px;
}

.waits {
  align-items: center;
  border-left: 4px solid var(--copper);
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  padding-left: 10px;
}

.waits label {
  align-items: center;
  display: flex;
  gap: 8px;
  min-height: 44px;
}

.chips {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.whole {
  font-size: 20px;
  font-weight: 650;
}

kbd {
  margin-left: 8px;
}
</style>
