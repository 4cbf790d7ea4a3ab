<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, shallowRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import Caution from '@/bench/Caution.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { clock, day } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import ChipSheet from './ChipSheet.vue'
import ChipText from './ChipText.vue'
import ChipWatch from './ChipWatch.vue'
import DataPair from './DataPair.vue'

/** The pack's own chip: read from a bus or out of a text, its words in units, and what of them cannot be true. */
const job = useJob()
const id = computed(() => job.value.facts.id)
const path = computed(() => ({ params: { path: { job_id: id.value } } }))
const closed = computed(() => job.value.assessment.closed)
const { data: here } = useQuery({ queryKey: computed(() => ['buses', id.value]), queryFn: () => settled(client.GET('/api/jobs/{job_id}/buses', path.value)) })
const { data: read } = useQuery({
  queryKey: computed(() => ['registers', id.value, job.value.facts.last_id]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/registers', path.value)),
  placeholderData: (before) => before,
})
const usable = computed(() => (here.value?.buses ?? []).filter((b) => !b.own))
const bus = ref('')
watch(usable, (list) => {
  if (!list.some((b) => b.path === bus.value)) bus.value = list[0]?.path ?? ''
}, { immediate: true })
const fed = ref(false)
const silentUnfed = ref(false)
// What to do then stays, whatever is tried of it.
const silent = ref(false)
const address = ref<number | null>(null)
const near = shallowRef<number[] | null>(null)
const { act, busy, refusal } = useAct()
const asked = computed(() => ({ bus: bus.value, fed: fed.value, silent_unfed: fed.value && silentUnfed.value, address: address.value ?? here.value?.address ?? 11 }))
async function readChip() {
  near.value = null
  const view = await act(() => settled(client.POST('/api/jobs/{job_id}/registers', { ...path.value, body: asked.value })))
  silent.value = !view && refusal.value?.status === 409
  if (silent.value && !fed.value) silentUnfed.value = true
}
async function look() {
  const found = await act(() => settled(client.POST('/api/jobs/{job_id}/registers/near', { ...path.value, body: asked.value })))
  near.value = found?.answering ?? null
}
const hex = (n: number) => `0x${n.toString(16).padStart(2, '0')}`

const last = computed<Schemas['ChipReading'] | null>(() => read.value?.[0] ?? null)
const say = computed(() => last.value?.says ?? null)
const HEADS: Partial<Record<Schemas['Contradiction']['kind'], string>> = { answers_only_fed: 'The chip has lost its own supply', healthy_but_no_current: 'The chip is healthy, and no current flows', pec_wrong: 'Words came torn: look at the wires' }
const title = computed(() => {
  if (!say.value) return 'The pack’s own chip'
  const kinds = (say.value.contradictions ?? []).map((c) => c.kind)
  const head = Object.entries(HEADS).find(([kind]) => kinds.includes(kind as (typeof kinds)[number]))
  return head?.[1] ?? (kinds.length ? 'The chip and the pack disagree' : 'What the chip says')
})
const percent = (share: number | null | undefined) => (share == null ? null : `${Math.round(share * 100)} %`)
const capacity = computed(() => {
  const s = say.value
  if (!s) return null
  const [full, design, unit] = s.full_ah != null ? [s.full_ah, s.design_ah, 'Ah'] : [s.full_wh, s.design_wh, 'Wh']
  return full == null ? null : `${full.toFixed(2)} ${unit} when full${design != null ? `, ${design.toFixed(2)} as new` : ''}`
})
const facts = computed(() => [capacity.value, say.value?.cycles != null ? `${say.value.cycles} cycles` : null, say.value?.voltage_v != null ? `${say.value.voltage_v.toFixed(2)} V` : null, say.value?.manufactured ? `made ${say.value.manufactured}` : null].filter(Boolean).join(' · '))
</script>

<template>
  <StageLayout>
    <section class="chip-view">
      <h1>{{ title }}</h1>
      <template v-if="say && last">
        <p class="main"><output class="figure big mono" aria-label="State of charge by the chip">{{ percent(say.relative_soc) ?? 'no charge told' }}</output> <span>{{ facts }}</span></p>
        <ul v-if="say.contradictions?.length" class="against" aria-label="What cannot be true">
          <li v-for="c in say.contradictions" :key="c.because">{{ c.because }}</li>
        </ul>
        <p v-if="say.alarms?.length" class="error">Its alarms: {{ say.alarms.join(', ').replaceAll('_', ' ') }}.</p>
        <p class="muted">Read {{ day(last.at) }} {{ clock(last.at) }}, {{ last.by === 'text' ? 'from a text' : last.by === 'simulated' ? 'on the simulated bus' : 'on a bus' }}{{ last.fed ? ', fed from outside' : '' }}{{ (read?.length ?? 0) > 1 ? `; ${read!.length - 1} more kept` : '' }}.</p>
      </template>
      <p v-else class="muted">A smart pack counts its own charge and keeps notes of its life. Read them, and hold them against what you measure.</p>

      <template v-if="closed === null">
        <form class="read" @submit.prevent="readChip">
          <template v-if="usable.length">
            <ElSelect v-if="usable.length > 1" v-model="bus" aria-label="Bus"><ElOption v-for="b in usable" :key="b.path" :value="b.path" :label="`${b.name}, ${b.path}`" /></ElSelect>
            <span v-else class="muted">{{ usable[0]!.name }}</span>
            <label class="fed"><ElSwitch v-model="fed" aria-label="Its board is fed from outside" /> Fed from outside</label>
            <ElButton type="primary" native-type="submit" :loading="busy">Read the chip</ElButton>
          </template>
          <p v-else class="muted">No bus here. Plug in an adapter with its kernel driver, or paste what another tool printed.</p>
        </form>
        <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
        <div v-if="silent" class="silent" role="status">
          <p><strong>Silent. In this order:</strong></p>
          <ol>
            <li>Minus on minus first; then exchange the two data wires once.</li>
            <li><button type="button" class="linklike" :disabled="busy" @click="look">Look at the addresses next to {{ hex(here?.address ?? 11) }}</button><span v-if="near"> {{ near.length ? 'Something answers at' : 'Nothing answers there.' }} <button v-for="n in near" :key="n" type="button" class="linklike" @click="(address = n, readChip())">{{ hex(n) }}: read it</button></span></li>
            <li>Feed the board: a supply on the charging contacts, set to the string’s own volts, limited to 50 mA. Then switch “Fed from outside” on and read again. A chip that answers only then has lost its own supply.</li>
          </ol>
        </div>
        <ChipWatch v-if="usable.length && say" :asked="asked" />
        <DataPair />
        <ChipText />
      </template>
      <p v-else class="muted">{{ closed }}</p>
      <ChipSheet v-if="last" :words="last.words" :raw="say?.raw ?? {}" />
    </section>
    <template #judgement>
      <p class="label">What the chip is good for</p>
      <p>It knows its cycles, its age and what it learned to hold. It does not know a weld, a fuse or a switch: a chip that is healthy beside terminals that give nothing points at the path between.</p>
      <Caution title="Only read, never forced">Through 330 Ω in each data wire, nothing else on an unknown contact. A wire that carries the string’s volts ends the adapter.</Caution>
      <p class="label">Nothing is written</p>
      <p>Saldatura writes no word and clears no flag. A permanent failure is evidence: something tripped it, and it stays true until that is found. Who clears one elsewhere notes it, and proves the pack anew.</p>
    </template>
  </StageLayout>
</template>

<style scoped>
.chip-view {
  display: grid;
  gap: 12px;
  grid-template-columns: minmax(0, 1fr);
}

.main {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
}

.big {
  font-size: 52px;
  line-height: 1.05;
}

.against {
  border-left: 4px solid var(--copper);
  list-style: none;
  margin: 0;
  padding: 2px 0 2px 14px;
}

.against li {
  font-size: 18px;
  padding: 3px 0;
}

.read {
  align-items: center;
  border-top: 1px solid var(--rule);
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  padding-top: 10px;
}

.read :deep(.el-select) {
  width: 300px;
}

.fed {
  align-items: center;
  display: flex;
  gap: 10px;
  min-height: 44px;
}

.silent ol {
  margin: 4px 0 0;
  padding-left: 22px;
}

.silent li {
  padding: 3px 0;
}
</style>
