<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { RouterLink } from 'vue-router'
import { client, settled } from '@/api/client'
import { jobNumber } from '@/composables/format'
import { stagePath } from '@/router'

/** Which packs that wait the used cells of the drawer would mend, by the donor they came from. */
const { data, isFetching, error } = useQuery({ queryKey: ['cells', 'mends'], queryFn: () => settled(client.GET('/api/cells/mends')), refetchInterval: (q) => (q.state.data?.pending ? 800 : false) })
</script>

<template>
  <section class="mends">
    <h2>Jobs that the drawer's cells could mend</h2>
    <p v-if="isFetching && !data" class="muted" aria-busy="true">Matching the drawer with the open jobs</p>
    <p v-if="error" class="error" role="alert">This cannot be shown now: the program did not answer.</p>
    <p v-if="data?.pending" class="muted" aria-busy="true">{{ data.pending }} {{ data.pending === 1 ? 'pack is' : 'packs are' }} still being judged.</p>
    <p v-if="data && !data.donors.length && !data.pending" class="muted">No waiting pack needs cells that are here. Tested cells and judged packs are matched by themselves.</p>
    <article v-for="d in data?.donors ?? []" :key="d.donor">
      <p><strong>{{ d.donor }}</strong> mends {{ d.jobs.length === 1 ? 'one pack' : `${d.jobs.length} packs` }} that {{ d.jobs.length === 1 ? 'waits' : 'wait' }}.</p>
      <p v-for="j in d.jobs" :key="j.job"><RouterLink :to="stagePath(j.job, 'plan')">{{ jobNumber(j.job) }} {{ j.pack_name }}</RouterLink> <span class="muted">{{ j.says }}</span></p>
    </article>
    <p v-for="line in data?.unread ?? []" :key="line" class="muted">{{ line }}</p>
  </section>
</template>

<style scoped>
.mends,
article {
  display: grid;
  gap: 6px;
}

article {
  border-top: 1px solid var(--rule-soft);
  padding-top: 8px;
}
</style>
