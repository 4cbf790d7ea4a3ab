<script setup lang="ts">
import { RouterLink } from 'vue-router'
import { client, type Schemas, settled } from '@/api/client'
import { keepJob, queryClient } from '@/api/queries'
import { duration, jobNumber } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useNow } from '@/composables/useNow'
import { stagePath } from '@/router'

/** What stands still, why, and the act that frees it. */
defineProps<{ stuck: Schemas['Stuck'][] }>()
const now = useNow()
const { act, busy, refusal } = useAct()
const answered = (job: number) =>
  act(async () => {
    keepJob(await settled(client.POST('/api/jobs/{job_id}/asked', { params: { path: { job_id: job } }, body: { what: 'answered', note: '' } })))
    await queryClient.invalidateQueries({ queryKey: ['day'] })
  })
const to = (s: Schemas['Stuck']) => (s.hold.kind === 'no_time' ? '/hours' : stagePath(s.job_id, s.hold.stage))
</script>

<template>
  <section v-if="stuck.length" aria-label="Stuck">
    <h2>Stuck</h2>
    <ul>
      <li v-for="s in stuck" :key="`${s.job_id}${s.hold.kind}`">
        <span class="what"><strong>{{ s.pack_name }}</strong> <span class="muted">{{ jobNumber(s.job_id) }}</span></span>
        <span class="why">{{ s.hold.says }}<template v-if="s.hold.since">, for {{ duration((now - new Date(s.hold.since).getTime()) / 1000) }}</template></span>
        <button v-if="s.hold.kind === 'customer'" type="button" class="linklike" :disabled="busy" @click="answered(s.job_id)">{{ s.hold.frees }}</button>
        <RouterLink v-else :to="to(s)">{{ s.hold.frees }}</RouterLink>
      </li>
    </ul>
    <p v-if="refusal" class="error" role="alert">{{ refusal.lines.map((l) => l.message).join(' ') }}</p>
  </section>
</template>

<style scoped>
section {
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 0 20px;
  grid-template-columns: 92px minmax(0, 1fr);
  padding: 8px 0;
}

h2 {
  font-size: 16px;
  padding-top: 11px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: baseline;
  display: grid;
  gap: 2px 14px;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.3fr) 150px;
  min-height: 44px;
  padding: 2px 8px;
}

li > a,
li > .linklike {
  justify-self: end;
  margin: 0;
  padding: 11px 0;
  text-align: right;
}

.error {
  grid-column: 2;
}

@media (max-width: 600px) {
  section,
  li {
    grid-template-columns: minmax(0, 1fr);
  }

  li > a,
  li > .linklike {
    justify-self: start;
  }
}
</style>
