<script setup lang="ts">
import { computed, shallowRef } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import { clock, day } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'

/** The conditions of the set being read, and the way to begin a fresh one. */
const props = defineProps<{ assessed: Schemas['Assessed'] | null; scheme: string }>()

const { data: terms } = useTermsQuery()
const order = computed(() => terms.value?.orders.find((o) => o.key === props.scheme)?.name)
const job = useJob()
const { act, busy, refusal } = useAct()
const asking = shallowRef(false)
const moved = shallowRef(false)
const board = shallowRef<'' | 'plugged' | 'unplugged'>('')

const RESTS = [
  { label: 'A night or more', hours: 12 },
  { label: 'An hour', hours: 1 },
  { label: 'Ten minutes', hours: 1 / 6 },
  { label: 'Just off the charger or tool', hours: 0 },
  { label: 'Not known', hours: null },
]

const rest = computed(() => {
  const since = props.assessed?.set.rest_since
  if (!props.assessed) return ''
  if (!since) return 'rest not known'
  const today = new Date(since).toDateString() === new Date().toDateString()
  return `at rest since ${today ? '' : `${day(since)} `}${clock(since)}`
})
const also = computed(() => {
  const set = props.assessed?.set
  return [set?.condition === 'moved' ? ' · after moving' : '', set?.board ? ` · board ${set.board}` : ''].join('')
})
const meter = computed(() => {
  const m = props.assessed?.set.meter
  return m ? `meter ±(${m.percent} % + ${m.digits} digits)` : ''
})

async function begin(hours: number | null) {
  const rest_since = hours === null ? null : new Date(Date.now() - hours * 3_600_000).toISOString()
  const view = await act(() =>
    settled(client.POST('/api/jobs/{job_id}/sets', { params: { path: { job_id: job.value.facts.id } }, body: { purpose: 'probe', rest_since, last_current_a: 0, condition: moved.value ? 'moved' : 'rest', board: board.value || null } })),
  )
  if (view) asking.value = false
}
</script>

<template>
  <span>Probe run · {{ order }}<template v-if="assessed"> · {{ rest }}{{ also }} · {{ meter }}</template></span>
  <button v-if="!job.assessment.frozen" type="button" class="linklike" @click="asking = true">begin a fresh set</button>
  <ElDialog v-model="asking" title="How long has the pack rested?" width="460px" append-to-body>
    <p class="muted">A fresh set of readings is of one moment. The old one stays in the record.</p>
    <label class="switch"><ElSwitch v-model="moved" aria-label="After the leads were moved" /> after the leads were moved</label>
    <ElRadioGroup v-model="board" aria-label="The board" class="boards">
      <ElRadioButton value="">board as it is</ElRadioButton>
      <ElRadioButton value="plugged">plugged in</ElRadioButton>
      <ElRadioButton value="unplugged">unplugged</ElRadioButton>
    </ElRadioGroup>
    <div class="rests">
      <ElButton v-for="r in RESTS" :key="r.label" :loading="busy" @click="begin(r.hours)">{{ r.label }}</ElButton>
    </div>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  </ElDialog>
</template>

<style scoped>
.switch {
  align-items: center;
  display: flex;
  gap: 12px;
  min-height: 44px;
}

.rests {
  display: grid;
  gap: 8px;
  margin-top: 12px;
}
</style>
