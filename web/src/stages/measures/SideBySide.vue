<script setup lang="ts">
import TermWord from '@/bench/TermWord.vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, shallowRef, watch } from 'vue'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { clock, day, millivolts, volts } from '@/composables/format'
import { type From, vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'

/** Two sets of readings of this pack: then and now, or at rest and under load. */
const job = useJob()
const sets = computed(() => job.value.facts.sets.filter((s) => s.readings > 0))
const then = shallowRef<number | null>(null)
const now = shallowRef<number | null>(null)
watch(sets, (list) => {
  const rest = list.filter((s) => s.purpose !== 'load')
  const load = list.findLast((s) => s.purpose === 'load')
  then.value ??= (load ? rest.at(-1) : rest.at(-2))?.id ?? null
  now.value = load?.id ?? now.value ?? rest.at(-1)?.id ?? null
}, { immediate: true })

const CONDITION = { rest: 'at rest', load: 'under load', charging: 'charging', moved: 'after moving' }
function words(s: Schemas['ShownSet']): string {
  const amps = s.current_a ? ` ${s.current_a} A` : ''
  return `${s.purpose === 'prove' ? 'proving, ' : ''}${CONDITION[s.condition ?? 'rest']}${amps}, ${day(s.at)} ${clock(s.at)}`
}

const heldBy = (id: number | null) => sets.value.find((s) => s.id === id)
function sourceOf(group: number): From {
  const part = (id: number | null, v: number | null | undefined) => (v == null ? 'not read' : `${volts(v, 3)} V ${words(heldBy(id)!)}`)
  const row = data.value?.groups.find((g) => g.group === group)
  return { what: `Group ${group}`, words: `then ${part(then.value, row?.then_v)}; now ${part(now.value, row?.now_v)}` }
}

const { data, error } = useQuery({
  queryKey: computed(() => ['compare', job.value.facts.id, then.value, now.value, job.value.facts.last_id]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/compare', { params: { path: { job_id: job.value.facts.id }, query: { then: then.value!, now: now.value! } } })),
  enabled: computed(() => then.value !== null && now.value !== null),
  retry: false,
  placeholderData: (before) => before,
})
const refusal = computed(() => (error.value instanceof Refusal ? error.value.message : null))
defineExpose({ says: computed(() => data.value?.says ?? []) })
</script>

<template>
  <section class="compare">
    <h2>Two sets side by side</h2>
    <p v-if="sets.length < 2" class="muted">{{ sets.length ? 'One set is read.' : 'No set is read yet.' }} Two are compared: another in Probe on a later day shows leaks, one under load below shows resistances.</p>
    <template v-else>
      <div class="picks">
        <ElSelect v-model="then" aria-label="Then"><ElOption v-for="s in sets" :key="s.id" :value="s.id" :label="words(s)" /></ElSelect>
        <span>against</span>
        <ElSelect v-model="now" aria-label="Now"><ElOption v-for="s in sets" :key="s.id" :value="s.id" :label="words(s)" /></ElSelect>
      </div>
      <p v-if="refusal" class="error" role="alert">{{ refusal }}</p>
      <div v-if="data && !refusal" class="broad">
        <table>
          <thead>
            <tr>
              <th>group</th><th class="number">then, V</th><th class="number">now, V</th><th class="number">moved, mV</th>
              <th v-if="data.kind === 'resistance'" class="number">mΩ</th>
              <th v-if="data.kind === 'leak'" class="number"><TermWord of="self_discharge">loses</TermWord>, mAh a day</th>
              <th v-if="data.kind !== 'moved'" class="number">off, σ</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="g in data.groups.toReversed()" :key="g.group" v-from="sourceOf(g.group)" :class="{ odd: g.odd }">
              <td>{{ g.group }}<strong v-if="g.odd"> ▲ odd</strong></td>
              <td class="number">{{ volts(g.then_v, 3) }}</td>
              <td class="number">{{ volts(g.now_v, 3) }}</td>
              <td class="number">{{ millivolts(g.moved_v) }}</td>
              <td v-if="data.kind === 'resistance'" class="number">{{ g.ohm == null ? '–' : `${(g.ohm * 1000).toFixed(1)} ±${((g.sigma_ohm ?? 0) * 2000).toFixed(1)}` }}</td>
              <td v-if="data.kind === 'leak'" class="number">{{ g.leak_mah_day == null ? '–' : `${volts(g.leak_mah_day, 1)} ±${((g.sigma_mah_day ?? 0) * 2).toFixed(1)}` }}</td>
              <td v-if="data.kind !== 'moved'" class="number">{{ g.z == null ? '–' : volts(g.z, 1) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-for="(line, i) in data?.says ?? []" :key="i">{{ line }}</p>
    </template>
  </section>
</template>

<style scoped>
.broad {
  overflow-x: auto;
}

.compare {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}

td.number {
  white-space: nowrap;
}

.picks {
  align-items: center;
  display: flex;
  gap: 12px;
}
</style>
