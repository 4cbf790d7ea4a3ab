<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import FieldRow from '@/bench/FieldRow.vue'
import VoltsField from '@/bench/VoltsField.vue'
import { volts } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useOutputs } from '@/composables/useOutputs'
import { useVolts } from '@/composables/useVolts'

/** An output that the program switches: its clips first, what they read, what it will be set to, and one press that says what it does. */
const props = defineProps<{ step: Schemas['PlanStep']; output: Schemas['OutputNow']; target: Schemas['NewCharge']['target']; restV: number }>()
const job = useJob()
const { act, busy, refusal } = useAct()
const params = computed(() => ({ path: { job_id: job.value.facts.id } }))
const { keep } = useOutputs(ref(true))
const shows = computed(() => props.output.live?.volts ?? null)
// An idle output that shows next to nothing has no clips on, or does not measure while it is off: then a meter reads them.
const blind = computed(() => !props.output.stand_in && (shows.value === null || Math.abs(shows.value) < 0.05))
const read = useVolts(() => 'the clips', () => ({ low: -0.5, high: 4.5 }), () => ({ low: -60, high: 60 }))
watch(() => [props.step.channel, props.step.group], () => (refusal.value = null))
const place = computed(() => props.output.place ?? null)
const there = computed(() => place.value?.group === props.step.group && !place.value.turned)
const where = computed(() => (!place.value ? '' : place.value.group == null ? 'in the air' : `on group ${place.value.group}${place.value.turned ? ', the wrong way round' : ''}`))
const elsewhere = ref({ group: 1, turned: false })

async function clip(group: number | null, turned = false) {
  const list = await act(() => settled(client.POST('/api/jobs/{job_id}/virtual/clips', { params: params.value, body: { channel: props.step.channel, group, turned } })))
  keep(list ?? null)
}
async function on() {
  const typed = blind.value ? read.take() : null
  if (blind.value && !typed) return
  const body = {
    group: props.step.group, target: props.target, current_a: null, stand_in: false, channel: props.step.channel, driven: true,
    clip_v: typed?.volts ?? shows.value, rest_v: props.restV,
  }
  if (await act(() => settled(client.POST('/api/jobs/{job_id}/charges', { params: params.value, body })))) read.clear()
}
</script>

<template>
  <div class="drive">
    <template v-if="output.stand_in">
      <p class="clips"><span>Clips of {{ output.channel }}: <strong>{{ where }}</strong></span><ElButton v-if="!there" :loading="busy" @click="clip(step.group)">Clip it: minus tap {{ step.group - 1 }}, plus tap {{ step.group }}</ElButton><ElButton v-else :loading="busy" @click="clip(null)">Take the clips off</ElButton></p>
      <details><summary>Clip it elsewhere, for practice</summary><p class="clips"><ElInputNumber v-model="elsewhere.group" :min="1" :max="job.facts.intake.pack.series" aria-label="practice group" /><button type="button" class="chip" :aria-pressed="elsewhere.turned" @click="elsewhere.turned = !elsewhere.turned">turned round</button><ElButton @click="clip(elsewhere.group, elsewhere.turned)">Clip there</ElButton></p></details>
    </template>
    <FieldRow v-if="blind" :label="`${output.channel} off, clips on: minus tap ${step.group - 1}, plus tap ${step.group}. They read, V`" :error="read.wrong.value ?? read.questioned.value"><template #default="{ id }"><VoltsField :id="id" v-model="read.text.value" class="boxed" label="the clips read, V" :said="read.wrong.value" @accept="on" /></template></FieldRow>
    <p v-else class="reads">its clips read <span class="mono">{{ shows === null ? '–' : `${volts(shows, 3)} V` }}</span></p>
    <ElButton type="primary" class="on" :loading="busy" @click="on">Switch it on: {{ volts(step.stop_at.volts, 3) }} V, {{ step.current_a }} A into group {{ step.group }}</ElButton>
    <p class="muted">Before its output goes on it is told off, set to {{ volts(step.stop_at.volts, 3) }} V, given a limit of its own just above, and all is read back. {{ job.assessment.simulated ? 'The stand-in' : 'It' }} goes off at its taper, when warm, when nothing rises, and when it is out of reach.</p>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  </div>
</template>

<style scoped>
.drive {
  display: grid;
  gap: 10px;
  justify-items: start;
}

.clips {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
}

.reads {
  font-size: 20px;
}

.reads .mono {
  font-size: 36px;
}

.on {
  min-height: 52px;
}
</style>
