<script setup lang="ts">
import { RouterLink } from 'vue-router'
import type { Schemas } from '@/api/client'
import { day, jobNumber } from '@/composables/format'
import { stagePath } from '@/router'

/** A pack's earlier jobs: what was done then, and whether it is still answered for. */
defineProps<{ jobs: Schemas['Earlier'][] }>()
</script>

<template>
  <section class="earlier" aria-label="This pack was here before">
    <h2>This pack was here before</h2>
    <article v-for="e in jobs" :key="e.job_id">
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
