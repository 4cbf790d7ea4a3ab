<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { client, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import Caution from './Caution.vue'
import TextField from '@/forms/TextField.vue'
import Choice from '@/forms/Choice.vue'

/** What makes another pack of it: new cells are in, or a group is left out of the string. */
const props = defineProps<{ what: 'cells' | 'out'; groups?: number[] }>()
const emit = defineEmits<{ done: [] }>()
const job = useJob()
const settings = useSettings()
const cache = useQueryClient()
const { act, busy, refusal } = useAct()
const series = computed(() => job.value.now.series)
const chosen = ref(new Set<number>(props.groups ?? []))
const origin = ref<'new' | 'used' | 'donor'>('new')
const where = ref<'to waste' | 'kept' | 'drawer'>('to waste')
const form = ref({ by: settings.value.technician, because: '', agreed: '', note: '', cells: '' })
const held = ref<{ group: number | null; cells: string[] }[]>([])
const ORIGINS = { new: 'new cells', used: 'used cells', donor: 'cells from a donor' } as const
const WHERE = { 'to waste': 'to the waste', kept: 'kept by the customer', drawer: 'into the drawer' } as const

// Those put aside in Plan are the ones that go in.
watch(() => props.what, async (what) => {
  if (what !== 'cells') return
  const plan = await settled(client.GET('/api/jobs/{job_id}/plan', { params: { path: { job_id: job.value.facts.id } } })).catch(() => null)
  held.value = plan?.held.filter((h) => !h.built) ?? []
}, { immediate: true })
const aside = computed(() => held.value.filter((h) => h.group !== null && chosen.value.has(h.group)))
// Of groups for which nothing was put aside, what their cells are is told.
const untold = computed(() => !form.value.cells.trim() && (!chosen.value.size || [...chosen.value].some((g) => !aside.value.some((h) => h.group === g))))

function toggle(group: number) {
  if (props.what === 'out') chosen.value = new Set([group])
  else if (!chosen.value.delete(group)) chosen.value.add(group)
}

async function keep() {
  const params = { path: { job_id: job.value.facts.id } }
  const groups = [...chosen.value].sort((a, b) => a - b)
  const names = form.value.cells.split(/[\s,;]+/).filter(Boolean)
  const done = props.what === 'cells'
    ? await act(() => settled(client.POST('/api/jobs/{job_id}/cells-in', { params, body: { groups, by: form.value.by.trim(), origin: untold.value ? origin.value : null, named: names.length && groups.length === 1 ? [{ group: groups[0]!, cells: names }] : [], note: form.value.note } })))
    : await act(() => settled(client.POST('/api/jobs/{job_id}/left-out', { params, body: { group: groups[0] ?? 0, because: form.value.because, by: form.value.by.trim(), agreed_with: form.value.agreed.trim(), where: where.value } })))
  if (!done) return
  if (!settings.value.technician) settings.value.technician = form.value.by.trim()
  await cache.invalidateQueries({ queryKey: ['cells'] })
  emit('done')
}
const FIELDS = ['by', 'because', 'agreed_with', 'group', 'groups', 'note']
</script>

<template>
  <form class="change" @submit.prevent="keep">
    <div class="chips" role="group" :aria-label="what === 'cells' ? 'In which groups' : 'Which group'">
      <span>{{ what === 'cells' ? 'In group' : 'Group' }}</span>
      <button v-for="g in series" :key="g" type="button" class="chip" :aria-pressed="chosen.has(g)" @click="toggle(g)">{{ g }}</button>
      <button v-if="what === 'cells' && series > 1" type="button" class="chip" @click="chosen = new Set(Array.from({ length: series }, (_, i) => i + 1))">all</button>
    </div>
    <p v-if="refusal?.on('group') ?? refusal?.on('groups')" class="error" role="alert">{{ refusal?.on('group') ?? refusal?.on('groups') }}</p>
    <template v-if="what === 'cells'">
      <p v-for="h in aside" :key="h.group ?? 0">Put aside for group {{ h.group }}: <span class="mono">{{ h.cells.join(', ') }}</span></p>
      <Choice v-if="untold" label="What they are" :options="ORIGINS" :chosen="(key) => origin === key" @choose="(key) => (origin = key)" />
      <TextField v-if="!aside.length && chosen.size === 1" v-model="form.cells" label="Cells of the drawer, by name" :error="refusal?.on('cells')" placeholder="none, or scan their labels" />
      <TextField v-model="form.note" label="Note" :error="refusal?.on('note')" maxlength="400" placeholder="two new cells, 2.5 Ah" />
    </template>
    <template v-else>
      <Choice label="Where its cells went" :options="WHERE" :chosen="(key) => where === key" @choose="(key) => (where = key)" />
      <TextField v-model="form.because" label="Why it is left out" :error="refusal?.on('because')" maxlength="400" />
      <TextField v-model="form.agreed" label="Agreed with" :error="refusal?.on('agreed_with')" maxlength="60" placeholder="the customer, by name" />
      <Caution title="Another charger" grave>The pack has one group fewer from now on: its old charger overcharges what is left. The device must run on the lower voltage, and its cut-off be met.</Caution>
    </template>
    <TextField v-model="form.by" label="By" :error="refusal?.on('by')" maxlength="60" />
    <p v-if="refusal && !FIELDS.some((f) => refusal?.on(f))" class="error" role="alert">{{ refusal.message }}</p>
    <ElButton type="primary" size="large" native-type="submit" :loading="busy" :disabled="!chosen.size">{{ what === 'cells' ? 'Record: the cells are in' : 'Record: the group is left out' }}</ElButton>
    <p class="muted">{{ what === 'cells' ? 'What was read and measured of the old cells does not hold for these; they are read anew.' : 'The groups above are numbered anew from pack minus; the record keeps the old numbers.' }}</p>
  </form>
</template>

<style scoped>
.change {
  display: grid;
  gap: 12px;
}
</style>
