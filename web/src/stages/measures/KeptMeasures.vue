<script setup lang="ts">
import { computed } from 'vue'
import { clock, day } from '@/composables/format'
import TakeBack from '@/bench/TakeBack.vue'
import { useJob } from '@/composables/useJob'

/** What was measured and is kept with the job, newest first. */
const job = useJob()
const all = computed(() => (job.value.assessment.measures.all ?? []).toReversed())
const KINDS: Record<string, string> = { acir: 'resistance', step: 'step', sensor: 'sensor', path: 'power path', wiggle: 'wiggle', capacity: 'capacity', registers_read: 'chip', replaced: 'new cells' }
</script>

<template>
  <section v-if="all.length" class="kept">
    <h2>Kept with the job</h2>
    <ul>
      <li v-for="m in all" :key="m.id"><span class="muted when">{{ day(m.at) }} {{ clock(m.at) }} · {{ KINDS[m.kind] ?? m.kind }}</span> {{ m.says }} <TakeBack v-if="job.assessment.closed === null" :fact="m.id" what="this measure" /></li>
    </ul>
  </section>
</template>

<style scoped>
.kept {
  border-top: 1px solid var(--rule);
  padding-top: 12px;
}

ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}

li {
  padding: 4px 0;
}

.when {
  font-size: 14px;
}
</style>
