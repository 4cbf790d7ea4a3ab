<script setup lang="ts">
import { computed, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import { degrees } from '@/composables/degrees'
import { duration, volts } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useLive } from '@/composables/useLive'
import { tone } from '@/composables/useVoice'
import TimeRing from '@/figures/TimeRing.vue'

/** A load run on the stand-in load: it stops at a group's own cut-off, when a cell grows warm, and when the board opens; live beside its forecast. */
const props = defineProps<{ amps: number | null; forecast: Schemas['RunTime'] | null; groupV: number; hottest: number }>()
const emit = defineEmits<{ ended: [Schemas['Source']] }>()
const job = useJob()
const { act, busy, refusal } = useAct()
const { frame } = useLive()
const load = computed(() => (frame.value?.virtual?.hooked === 'load' ? (frame.value.virtual.sources.load ?? null) : null))
const running = computed(() => load.value?.on ?? false)
const shows = computed(() => frame.value?.instruments.find((i) => i.kind === 'load')?.live ?? null)
const path = computed(() => ({ path: { job_id: job.value.facts.id } }))
const source = (on: boolean) => ({ on, amps: props.amps ?? 0, group_low_v: props.groupV, hottest_c: props.hottest }) as Schemas['Source']
const drive = (on: boolean) => act(() => settled(client.POST('/api/jobs/{job_id}/virtual/source', { params: path.value, body: { kind: 'load', source: source(on) } })))
watch(running, (on, was) => {
  if (!was || on || !load.value) return
  tone('alarm')
  emit('ended', load.value)
})
</script>

<template>
  <div class="stand-in">
    <template v-if="running && load">
      <TimeRing :done="forecast ? load.seconds / forecast.duration_s : 0" :size="56" />
      <p aria-live="off"><strong class="mono">{{ duration(load.seconds) }}</strong><template v-if="forecast"> of {{ duration(forecast.duration_low_s) }} – {{ duration(forecast.duration_high_s) }}</template>, <span class="mono">{{ load.ah.toFixed(2) }} Ah</span><template v-if="shows?.volts != null">, <span class="mono">{{ volts(shows.volts, 2) }} V</span></template></p>
      <ElButton :loading="busy" @click="drive(false)">Switch the load off</ElButton>
    </template>
    <ElButton v-else type="primary" :loading="busy" :disabled="!amps" @click="drive(true)">Switch the stand-in load on: {{ amps ?? '–' }} A until a group is at {{ volts(groupV, 2) }} V or a cell at {{ degrees(hottest, 0) }}</ElButton>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  </div>
</template>

<style scoped>
.stand-in {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
}
</style>
