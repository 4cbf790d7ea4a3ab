<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, shallowRef } from 'vue'
import { RouterLink } from 'vue-router'
import { client, type Schemas, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import { useShortcuts } from '@/composables/useShortcuts'

/** Cells of the drawer matched for the repair at one key, then put aside by for this job. */
const props = defineProps<{ repair: 'replace_groups' | 'donor_cells' | 'recell'; held: Schemas['HeldCells'][]; closed: boolean }>()
const job = useJob()
const settings = useSettings()
const cache = useQueryClient()
const { act, busy, refusal } = useAct()
const aim = ref<'most' | 'just_enough'>(props.repair === 'recell' ? 'most' : 'just_enough')
const found = shallowRef<Schemas['MatchedFor'] | null>(null)
const by = ref(settings.value.technician)
const mine = computed(() => props.held.filter((h) => !h.built))

async function match() {
  found.value = await act(() => settled(client.GET('/api/jobs/{job_id}/match', { params: { path: { job_id: job.value.facts.id }, query: { repair: props.repair, aim: aim.value } } })))
}
async function putBy() {
  const groups = Object.fromEntries(found.value!.matching.groups.map((g, i) => [found.value!.groups[i]!, g.cells]))
  const done = await act(() => settled(client.POST('/api/cells/for/{job_id}', { params: { path: { job_id: job.value.facts.id } }, body: { groups, by: by.value } })))
  if (!done) return
  found.value = null
  await Promise.all([cache.invalidateQueries({ queryKey: ['plan'] }), cache.invalidateQueries({ queryKey: ['cells'] })])
}
async function letGo() {
  if (!(await act(() => settled(client.POST('/api/cells/for/{job_id}', { params: { path: { job_id: job.value.facts.id } }, body: { groups: {}, by: by.value || 'bench' } }))))) return
  await Promise.all([cache.invalidateQueries({ queryKey: ['plan'] }), cache.invalidateQueries({ queryKey: ['cells'] })])
}
useShortcuts(() => (props.closed ? [] : [{ key: 'c', does: 'match cells from the drawer', run: () => void match() }]))
const share = (times: number) => `the hardest-driven cell carries ${Math.round((times - 1) * 100)} % over its share`
</script>

<template>
  <section class="matched">
    <p class="label">Cells from the drawer</p>
    <template v-if="mine.length">
      <p v-for="h in mine" :key="h.group ?? 0"><strong>Group {{ h.group }}</strong> <span class="mono"><template v-for="(c, i) in h.cells" :key="c">{{ i ? ', ' : '' }}<RouterLink :to="`/cells/${encodeURIComponent(c)}`">{{ c }}</RouterLink></template></span> put aside</p>
      <button v-if="!closed" type="button" class="linklike" @click="letGo">back to the drawer</button>
    </template>
    <template v-if="!closed">
      <div class="chips" role="group" aria-label="Aim"><button type="button" class="chip" :aria-pressed="aim === 'most'" @click="aim = 'most'">the most</button><button type="button" class="chip" :aria-pressed="aim === 'just_enough'" @click="aim = 'just_enough'">just enough</button></div>
      <ElButton :loading="busy" @click="match">Match them <kbd>c</kbd></ElButton>
    </template>
    <template v-if="found">
      <div v-for="(g, i) in found.matching.groups" :key="g.group" class="group">
        <p><strong>Group {{ found.groups[i] }}</strong>: {{ g.capacity_ah.toFixed(2) }} Ah<template v-if="g.cells.length > 1">; {{ share(g.largest_share) }}</template></p>
        <p class="mono">{{ g.cells.join(', ') }}</p>
        <p v-if="g.together" class="error">{{ g.together }}</p>
      </div>
      <p class="muted">Smallest {{ found.matching.capacity_ah.toFixed(2) }} Ah; no choice gives more than {{ found.matching.bound_ah.toFixed(2) }}. {{ found.matching.says }}</p>
      <ElInput v-model="by" aria-label="Put aside by" placeholder="put aside by" maxlength="60" />
      <ElButton type="primary" :loading="busy" :disabled="!by.trim()" @click="putBy">Put them aside for this job</ElButton>
    </template>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  </section>
</template>

<style scoped>
.matched,
.group {
  display: grid;
  gap: 6px;
}

.matched .linklike {
  justify-self: start;
  margin: 0;
}

.chips {
  display: flex;
  gap: 6px;
}

kbd {
  margin-left: 9px;
}
</style>
