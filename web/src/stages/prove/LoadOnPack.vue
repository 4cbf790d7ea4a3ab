<script setup lang="ts">
import NumberField from '@/forms/NumberField.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, shallowRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import FieldRow from '@/bench/FieldRow.vue'
import { degrees } from '@/composables/degrees'
import { duration, volts } from '@/composables/format'
import { sent } from '@/forms/quantity'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useLive } from '@/composables/useLive'
import { tone } from '@/composables/useVoice'
import TimeRing from '@/figures/TimeRing.vue'

/** A run on a load of the shop: switched here, guarded by a meter on the group that should end it, live beside its forecast. */
const props = defineProps<{ amps: number | null; ends: number | null }>()
const emit = defineEmits<{ kept: [] }>()
const job = useJob()
const { act, busy, refusal } = useAct()
const id = computed(() => job.value.facts.id)
const path = computed(() => ({ path: { job_id: id.value } }))
const { data: instruments } = useQuery({ queryKey: ['instruments'], queryFn: () => settled(client.GET('/api/instruments')) })
const { frame } = useLive()
// What an act just answered, until a frame tells it.
const answered = shallowRef<Schemas['LoadRunNow'] | null>(null)
watch(frame, (heard) => heard && (answered.value = null))
const now = computed(() => answered.value ?? frame.value?.load_run ?? null)
const loads = computed(() => (instruments.value ?? []).filter((i) => i.entered.kind === 'load' && i.entered.drives))
const meters = computed(() => (instruments.value ?? []).filter((i) => i.entered.kind === 'meter'))
const load = ref<number | null>(null)
const meter = ref<number | null>(null)
const group = ref('')
watch(loads, (found) => (load.value ??= found[0]?.entered.id ?? null), { immediate: true })
watch(() => props.ends, (ends) => ends && !group.value && (group.value = String(ends)), { immediate: true })
// Whether it ran when it was last told of: while nothing answers nothing is known to have ended.
let ran = false
watch(now, (run) => {
  if (!run) return
  if (ran && !run.running) {
    tone('alarm')
    emit('kept')
  }
  ran = run.running
}, { immediate: true })
async function begin() {
  const guarded = meter.value !== null
  const body = { instrument: load.value!, amps: props.amps!, meter: meter.value, group: guarded ? sent(group.value) : null }
  const begun = await act(() => settled(client.POST('/api/jobs/{job_id}/load-run', { params: path.value, body })))
  if (begun) answered.value = begun
}
async function off() {
  await act(() => settled(client.POST('/api/jobs/{job_id}/load-run/off', { params: path.value })))
}
</script>

<template>
  <div class="load">
    <template v-if="now?.running">
      <div class="live">
        <TimeRing :done="now.seconds / now.forecast.duration_s" :size="56" />
        <p aria-live="off"><strong class="mono">{{ duration(now.seconds) }}</strong> of {{ duration(now.forecast.duration_low_s) }} – {{ duration(now.forecast.duration_high_s) }}<br /><span class="mono">{{ now.volts === null ? 'out of reach' : `${volts(now.volts, 2)} V, ${now.drawn_a?.toFixed(2)} A, ${now.ah.toFixed(3)} Ah` }}</span><template v-if="now.group">, group {{ now.group }} <span class="mono">{{ now.group_v === null ? '–' : volts(now.group_v, 3) }} V</span></template><template v-if="now.celsius !== null">, {{ degrees(now.celsius, 0) }}</template></p>
        <ElButton size="large" :loading="busy" @click="off">Switch the load off</ElButton>
      </div>
      <p v-if="now.celsius === null" class="muted">No thermometer tells how warm it grows: feel the pack now and then, and switch off what is too hot to hold.</p>
      <p v-if="now.says" class="error" role="alert">{{ now.says }}</p>
    </template>
    <template v-else>
      <p v-if="!loads.length" class="muted">No load that may be switched is entered in Instruments; run it by hand and keep what it showed.</p>
      <template v-else>
        <div class="fields">
          <FieldRow label="The load" :error="refusal?.on('instrument')"><template #default="{ id: field }"><ElSelect :id="field" v-model="load" aria-label="The load"><ElOption v-for="i in loads" :key="i.entered.id" :value="i.entered.id" :label="i.entered.name" /></ElSelect></template></FieldRow>
          <FieldRow label="Meter that guards a group" :error="refusal?.on('meter')"><template #default="{ id: field }"><ElSelect :id="field" v-model="meter" clearable aria-label="Meter that guards a group" placeholder="none"><ElOption v-for="i in meters" :key="i.entered.id" :value="i.entered.id" :label="i.entered.name" /></ElSelect></template></FieldRow>
          <NumberField v-if="meter !== null" v-model="group" label="It is on group" whole :error="refusal?.on('group')" />
        </div>
        <p v-if="meter === null" class="muted">Without a meter on {{ ends ? `group ${ends}, which should end it,` : 'a group' }} only the pack’s own volts stop the run: a weaker group may be drawn too low. Stay by it.</p>
        <ElButton type="primary" :loading="busy" :disabled="!amps || load === null" @click="begin">Switch the load on: {{ amps ?? '–' }} A</ElButton>
      </template>
      <p v-if="now?.says" class="muted">The last run: {{ now.says }}</p>
    </template>
    <p v-if="refusal && !['instrument', 'meter', 'group'].some((f) => refusal?.on(f))" class="error" role="alert">{{ refusal.message }}</p>
  </div>
</template>

<style scoped>
.load {
  display: grid;
  gap: 8px;
  width: 100%;
}

.live {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
}

.live p {
  margin: 0;
}

.fields {
  display: grid;
  gap: 12px;
  grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
}
</style>
