<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { client, settled } from '@/api/client'
import { day, jobNumber } from '@/composables/format'
import { useJob } from '@/composables/useJob'
import { stagePath } from '@/router'

/** The same pack here before, by its serial: what was done then, and whether it is still answered for. */
const job = useJob()
const id = computed(() => job.value.facts.id)
const { data } = useQuery({
  queryKey: computed(() => ['earlier', id.value, job.value.facts.intake.serial]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/earlier', { params: { path: { job_id: id.value } } })),
  enabled: computed(() => Boolean(job.value.facts.intake.serial)),
})
</script>

<template>
  <section v-if="data?.length" class="earlier" aria-label="Earlier jobs of this pack">
    <h2>Earlier jobs of this pack</h2>
    <article v-for="e in data" :key="e.job_id">
      <p><RouterLink :to="stagePath(e.job_id, 'hand_over')">job {{ jobNumber(e.job_id) }}</RouterLink><template v-if="e.went">, {{ e.scrapped ? 'scrapped' : 'handed back' }} {{ day(e.went) }}</template><template v-else>, still open</template><strong v-if="e.answered_for" class="due"> answered for until {{ day(e.warranty_until!) }}</strong><span v-else-if="e.warranty_until" class="muted"> was answered for until {{ day(e.warranty_until) }}</span></p>
      <p v-for="f in e.fitted" :key="f">Put in: {{ f }}</p>
      <p v-for="d in e.done" :key="d" class="muted">{{ d }}</p>
    </article>
  </section>
</template>

<style scoped>
.earlier {
  border-left: 4px solid var(--copper);
  display: grid;
  gap: 8px;
  padding-left: 14px;
}

.due {
  color: var(--copper);
}
</style>
