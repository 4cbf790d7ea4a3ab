<script setup lang="ts">
import { computed, onBeforeUnmount, shallowRef, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { client, settled } from '@/api/client'
import Caution from '@/bench/Caution.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { useAct } from '@/composables/useAct'
import { between, useFigure } from '@/composables/useFigure'
import { useJob } from '@/composables/useJob'
import { useLive } from '@/composables/useLive'
import { NOWHERE, type Probes, probesAt } from '@/composables/useMeter'
import HookUp from './HookUp.vue'
import InstrumentRow from './InstrumentRow.vue'
import NewVirtual from './NewVirtual.vue'
import VirtualClock from './VirtualClock.vue'

/** What is connected to this pack, what it shows, and the virtual pack behind the stand-ins. */
const job = useJob()
const figure = useFigure()
const { frame } = useLive()
const id = computed(() => job.value.facts.id)
const virtual = computed(() => frame.value?.virtual ?? null)
const standIns = computed(() => (frame.value?.instruments ?? []).filter((i) => i.key.startsWith('stand-in') && i.connected))
const shop = computed(() => (frame.value?.instruments ?? []).filter((i) => i.key.startsWith('shop')))
const replacing = shallowRef(false)
const { act, refusal } = useAct()

const path = computed(() => ({ params: { path: { job_id: id.value } } }))
const place = (probes: Partial<Probes>) =>
  act(() => settled(client.POST('/api/jobs/{job_id}/virtual/probes', { ...path.value, body: { ...NOWHERE, ...probes } })))
const move = () => act(() => settled(client.POST('/api/jobs/{job_id}/virtual/move', { ...path.value, body: { seconds: 5 } })))

// The figure can be picked in once there is a meter whose probes would go there.
watch(() => virtual.value !== null, (there) => (figure.pick.value = there ? (point) => void place(probesAt(point)) : null), { immediate: true })
onBeforeUnmount(() => {
  figure.pick.value = null
  figure.lit.value = null
})
const probes = computed(() => virtual.value?.probes ?? null)
watch(probes, (p) => (figure.lit.value = p?.at === 'taps' ? between(p.black, p.red) : null), { immediate: true })

const gauge = computed(() => {
  const v = virtual.value
  return v?.gauge_share == null ? '' : `Its own gauge shows ${v.gauge_bars} of 4 lamps, ${Math.round(v.gauge_share * 100)} %.`
})
const board = computed(() => {
  const open = virtual.value?.board_open
  if (!open) return 'It has no board.'
  return open.length ? `Its board is open: ${open.join(', ').replaceAll('_', ' ')}.` : 'Its board lets current through.'
})
</script>

<template>
  <StageLayout>
    <section class="instruments">
      <h1>Instruments</h1>
      <template v-if="virtual">
        <VirtualClock :job-id="id" :virtual="virtual" />
        <ul>
          <InstrumentRow v-for="i in standIns" :key="i.key" :instrument="i">
            <div v-if="i.kind === 'meter'" class="probes" role="group" aria-label="Where the probes are">
              <ElButton :type="virtual.probes.at === 'terminals' ? 'primary' : undefined" @click="place({ at: 'terminals' })">terminals</ElButton>
              <ElButton :type="virtual.probes.at === 'sensor' ? 'primary' : undefined" @click="place({ at: 'sensor' })">sensor, Ω</ElButton>
              <ElButton :type="virtual.probes.at === 'air' ? 'primary' : undefined" @click="place({ at: 'air' })">lift</ElButton>
              <ElButton :type="virtual.moved ? 'primary' : undefined" @click="move">move the leads for 5 s</ElButton>
              <span class="muted">or click a tap or a row in the figure; shift and a second tap for two taps</span>
            </div>
          </InstrumentRow>
          <InstrumentRow v-for="i in shop" :key="i.key" :instrument="i" />
        </ul>
        <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
        <h2>What drives the pack</h2>
        <HookUp :job-id="id" :virtual="virtual" />
      </template>
      <template v-else-if="frame">
        <ul><InstrumentRow v-for="i in shop" :key="i.key" :instrument="i" /></ul>
        <p v-if="!shop.length" class="muted">No instrument is connected. Enter the shop's own under <RouterLink to="/instruments">Instruments of the shop</RouterLink>, or practise on a virtual pack with stand-ins:</p>
        <h2>A virtual pack for this job</h2>
        <NewVirtual v-if="!job.assessment.frozen" :job-id="id" />
      </template>
      <p v-else class="muted">Connecting</p>
    </section>
    <template #judgement>
      <template v-if="virtual">
        <p class="label">Simulated</p>
        <p>This pack is a model with {{ virtual.faults === 0 ? 'no fault' : virtual.faults === 1 ? 'one fault' : `${virtual.faults} faults` }} put in. Its instruments are stand-ins: they behave as real ones do, with noise and contact, and their readings are marked as simulated.</p>
        <p>{{ gauge }} {{ board }}</p>
        <Caution title="A bench supply does not stop by itself">Set it to the string's full voltage and watch it; only chargers end at their end current.</Caution>
        <button v-if="!job.assessment.frozen" type="button" class="linklike again" @click="replacing = !replacing">put another pack in its place</button>
        <NewVirtual v-if="replacing" :job-id="id" />
      </template>
      <template v-else>
        <p class="label">A real pack</p>
        <p>Only instruments entered by their port or address are ever spoken to, and nothing here switches a real supply or load.</p>
      </template>
      <RouterLink to="/instruments">Instruments of the shop</RouterLink>
    </template>
  </StageLayout>
</template>

<style scoped>
.instruments {
  display: grid;
  gap: 12px;
  grid-template-columns: minmax(0, 1fr);
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

.probes {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  width: 100%;
}

.probes :deep(.el-button + .el-button) {
  margin-left: 0;
}

.again {
  justify-self: start;
  margin: 0;
  text-align: left;
}
</style>
