<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { client, type Schemas, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useMoney } from '@/composables/useMoney'
import { useSettings } from '@/composables/useSettings'
import TextField from '@/forms/TextField.vue'

/** What the option taken wants bought: in the drawer, come, missing; booked when it comes. */
defineProps<{ closed: boolean }>()
const job = useJob()
const settings = useSettings()
const by = ref(settings.value.technician)
const { money } = useMoney()
const { act, busy, refusal } = useAct()
const { data: order } = useQuery({
  queryKey: computed(() => ['order', job.value.facts.id, job.value.facts.last_id]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/order', { params: { path: { job_id: job.value.facts.id } } })),
  retry: false,
})
const came = (line: Schemas['OrderLine']) =>
  act(() => settled(client.POST('/api/jobs/{job_id}/parts-came', { params: { path: { job_id: job.value.facts.id } }, body: { name: line.name, count: line.missing, by: by.value } as Schemas['NewPartCame'] })))
// What such packs were found to want beside; whether this one does, its opening shows.
const may = computed(() => (job.value.assessment.pattern?.sheet.parts ?? []).map((p) => `${p.count > 1 ? `${p.count} × ` : ''}${p.part}${p.says ? ` (${p.says})` : ''}`))
</script>

<template>
  <section v-if="order?.lines.length" class="order">
    <h2>To buy</h2>
    <p>{{ order.says }}<template v-if="order.missing && order.cost !== null"> {{ money(order.cost) }} in all.</template></p>
    <table>
      <thead><tr><th>What</th><th class="number">wanted</th><th class="number">here</th><th class="number">missing</th><th class="number">one costs</th><th><span class="visually-hidden">it came</span></th></tr></thead>
      <tbody>
        <tr v-for="line in order.lines" :key="line.name">
          <td>{{ line.name }}</td><td class="number">{{ line.count }}</td><td class="number">{{ line.in_drawer + line.came }}</td><td class="number"><strong v-if="line.missing">{{ line.missing }}</strong><template v-else>none</template></td><td class="number">{{ line.price === null ? '–' : money(line.price) }}</td>
          <td><template v-if="line.missing && !closed"><RouterLink v-if="line.code === 'cell'" to="/cells">enter them in Cells</RouterLink><button v-else type="button" class="linklike" :disabled="busy" :aria-label="`${line.name} came`" @click="came(line)">it came</button></template></td>
        </tr>
      </tbody>
    </table>
    <TextField v-if="order.missing && !closed && !settings.technician" v-model="by" label="Booked by" maxlength="60" :error="refusal?.on('by')" />
    <p v-if="refusal && !refusal.on('by')" class="error" role="alert">{{ refusal.message }}</p>
    <p v-if="may.length" class="muted">Such packs may want: {{ may.join('; ') }}.</p>
    <p><a :href="`/api/jobs/${job.facts.id}/order.pdf`" target="_blank">To print</a> <a :href="`/api/jobs/${job.facts.id}/order.csv`" download>CSV</a></p>
  </section>
</template>

<style scoped>
.order {
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}

h2 {
  font-size: 19px;
}

.linklike {
  white-space: nowrap;
}

a {
  margin-right: 14px;
}
</style>
