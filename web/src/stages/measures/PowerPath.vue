<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import { useQuery } from '@tanstack/vue-query'
import { StorageSerializers, useStorage } from '@vueuse/core'
import { computed, shallowRef, useTemplateRef, watch } from 'vue'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { percent } from '@/composables/format'
import { sent } from '@/forms/quantity'
import { useJob } from '@/composables/useJob'
import { askNote } from '@/bench/acts'
import FieldRow from '@/bench/FieldRow.vue'
import VoltsField from '@/bench/VoltsField.vue'
import PhotoFigure from '@/figures/PhotoFigure.vue'
import { placeName } from '@/figures/places'
import { photoUrl } from '@/stages/probe/usePhotos'
import { useKeep } from './useKeep'

/** The way from the string to the terminals: nodes read, the part that loses the voltage, the next touch. */
const NAMES: Record<string, string> = { high_side: 'fuse and switches in plus', low_side: 'switches in minus', thermal_fuse: 'thermal fuse', fuse_only: 'fuse only' }

const job = useJob()
const { data: templates } = useQuery({ queryKey: ['path-templates'], queryFn: () => settled(client.GET('/api/measures/path-templates')), staleTime: Infinity })
const state = useStorage(`saldatura.path.${job.value.facts.id}`, { template: 'high_side', string: '', volts: {} as Record<string, string> })
// A chain of one's own, begun from a usual one.
const own = useStorage<Schemas['Part'][] | null>(`saldatura.path-own.${job.value.facts.id}`, null, undefined, { serializer: StorageSerializers.object })
const editing = shallowRef(false)
const chain = computed<Schemas['Part'][]>(() => own.value ?? templates.value?.[state.value.template] ?? [])
watch(() => state.value.template, () => (own.value = null))

function edit() {
  own.value ??= chain.value.map((part) => ({ ...part }))
  editing.value = true
}
function add(after: number) {
  own.value?.splice(after + 1, 0, { node: '', part: '', fails: 1, minutes: 1 })
}
/** Nodes without a name are none. */
function edited() {
  own.value = (own.value ?? []).filter((p) => p.node.trim() && p.part.trim())
  if (!own.value.length) own.value = null
  editing.value = false
}
// Every group settled: their sum; else what the terminals gave.
const known = computed(() => {
  const probe = job.value.assessment.probe
  const groups = probe?.reconciled.groups ?? []
  if (groups.every((g) => g.volts !== null)) return groups.reduce((sum, g) => sum + (g.volts ?? 0), 0)
  return probe?.readings.findLast((r) => r.kind === 'pack')?.volts ?? 0
})
watch(known, (sum) => {
  if (!state.value.string && sum > 0) state.value.string = sum.toFixed(2)
}, { immediate: true })

const asked = computed(() => ({ string_v: sent(state.value.string, 'V') as number, chain: chain.value.map((p) => ({ ...p, volts: sent(state.value.volts[p.node], 'V') })) }))
const { data: found, error } = useQuery({
  queryKey: computed(() => ['path', JSON.stringify(asked.value)]),
  queryFn: () => settled(client.POST('/api/measures/path', { body: asked.value })),
  enabled: computed(() => !editing.value && chain.value.length > 0 && state.value.string.trim() !== ''),
  retry: false,
  staleTime: Infinity,
  placeholderData: (before) => before,
})
const refusal = computed(() => (error.value instanceof Refusal ? error.value : null))
const { busy, done, keep, refusal: unkept } = useKeep()
// Enter goes on to the node that tells most, else to the one below.
const nodes = useTemplateRef<{ focus: () => void }[]>('nodes')
const onward = (i: number) => {
  const next = chain.value.findIndex((p) => p.node === found.value?.next_node)
  nodes.value?.[next > -1 && next !== i ? next : Math.min(i + 1, chain.value.length - 1)]?.focus()
}
const read = computed(() => chain.value.some((p) => state.value.volts[p.node]?.trim()))
// A switch with the voltage on one side and none on the other is not convicted before its gate was read.
const held = computed(() => (found.value?.next_node === null && found.value.suspects.length === 1 && /switch/i.test(found.value.suspects[0]!.part) ? found.value.suspects[0]!.part : null))
/** The gate counts for the switch at which the path is lost: the path is kept with it. */
async function readGate() {
  if (done.value || (await keep({ kind: 'path', path: asked.value }))) askNote('chip', `The gate of the ${held.value} against its source`, 'gate')
}
// A photo on which the next node has its pin.
const photo = computed(() => job.value.assessment.photos.findLast((p) => p.pins.some((pin) => placeName(pin.place) === found.value?.next_node)) ?? null)
</script>

<template>
  <section class="path">
    <h2><TermWord of="power_path">Power path</TermWord></h2>
    <div class="top">
      <ElSelect v-model="state.template" aria-label="Kind of path"><ElOption v-for="(_, key) in templates ?? {}" :key="key" :value="key" :label="NAMES[key] ?? key" /></ElSelect>
      <FieldRow label="The string has, V" :error="refusal?.on('string_v')"><template #default="{ id }"><VoltsField :id="id" v-model="state.string" class="boxed" label="The string has, volts" @accept="onward(-1)" /></template></FieldRow>
      <button type="button" class="linklike" @click="state.volts = {}">clear the volts</button>
      <button v-if="!editing" type="button" class="linklike" @click="edit">{{ own ? 'change this chain' : 'a chain of your own' }}</button>
    </div>
    <form v-if="editing" class="own" @submit.prevent="edited">
      <p class="muted">From the string outward: what lies before each node, and where it is touched.</p>
      <div v-for="(p, i) in own ?? []" :key="i" class="part-row">
        <ElInput v-model="p.part" :aria-label="`part ${i + 1}`" placeholder="part, such as fuse" maxlength="60" />
        <ElInput v-model="p.node" :aria-label="`node ${i + 1}`" placeholder="node, such as after the fuse" maxlength="60" />
        <button type="button" class="linklike" :aria-label="`node below ${p.node || i + 1}`" @click="add(i)">one below</button>
        <button type="button" class="linklike" :aria-label="`leave ${p.node || i + 1} out`" @click="own?.splice(i, 1)">leave out</button>
      </div>
      <ElButton type="primary" native-type="submit">Read this chain</ElButton>
      <ElButton @click="((own = null), (editing = false))">The usual one</ElButton>
    </form>
    <ol v-else>
      <li v-for="(p, i) in chain" :key="p.node" :class="{ next: found?.next_node === p.node }">
        <span class="muted part">{{ p.part }}</span>
        <label :for="`node-${i}`">{{ p.node }}</label>
        <VoltsField :id="`node-${i}`" ref="nodes" :model-value="state.volts[p.node] ?? ''" class="boxed" :label="p.node" @update:model-value="state.volts[p.node] = $event" @accept="onward(i)" />
        <span class="muted share">{{ found?.suspects.some((s) => s.part === p.part) ? percent(found.suspects.find((s) => s.part === p.part)!.probability) : '' }}</span>
      </li>
    </ol>
    <p v-if="refusal && !refusal.on('string_v')" class="error" role="alert">{{ refusal.message }}</p>
    <p v-else-if="found" role="status"><strong>{{ found.says }}</strong></p>
    <p v-if="unkept" class="error" role="alert">{{ unkept.message }}</p>
    <p v-if="found && read && !refusal"><ElButton :loading="busy" @click="keep({ kind: 'path', path: asked })">{{ done ? 'Recorded; record again' : 'Record in the job' }}</ElButton><ElButton v-if="held" @click="readGate">Read its gate</ElButton></p>
    <PhotoFigure v-if="photo" :src="photoUrl(job.facts.id, photo.photo.id)" :photo="photo.photo" :pins="photo.pins" :lit="found?.next_node ? [found.next_node] : []" :placing="null" />
  </section>
</template>

<style scoped>
.path {
  display: grid;
  --tall: 300px;

  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}

.top {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
}

.top > .linklike {
  margin-left: 0;
}

.top :deep(.el-select) {
  width: 260px;
}

.top :deep(.el-input),
li :deep(.el-input) {
  width: 110px;
}

ol {
  border-left: 3px solid var(--ink);
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: center;
  display: grid;
  gap: 12px;
  grid-template-columns: minmax(0, 1.1fr) minmax(0, 1fr) 110px 52px;
  padding: 3px 0 3px 14px;
}

.own {
  display: grid;
  gap: 8px;
  justify-items: start;
}

.part-row {
  align-items: center;
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr) auto auto;
  width: 100%;
}

.part-row :deep(.el-input) {
  width: 100%;
}

.own :deep(.el-button + .el-button) {
  margin-left: 0;
}

.path p :deep(.el-button + .el-button) {
  margin-left: 10px;
}

li.next {
  box-shadow: inset 5px 0 0 var(--copper);
}

li.next label {
  color: var(--copper);
  font-weight: 700;
}

</style>
