<script setup lang="ts">
import { computed } from 'vue'
import { clock, day } from '@/composables/format'
import { useJob } from '@/composables/useJob'
import TakeBack from './TakeBack.vue'

/** What was said, tried and done, in the order in which it happened. */
const job = useJob()
const lines = computed(() => job.value.assessment.along ?? [])
const KINDS = { note: 'said, seen', try: 'tried', work: 'done', ruling: 'held' }
</script>

<template>
  <section v-if="lines.length" class="along">
    <h2>Notes and tries</h2>
    <ol>
      <li v-for="line in lines" :key="line.fact" :class="line.kind"><span class="muted when">{{ day(line.at) }} {{ clock(line.at) }} · {{ KINDS[line.kind] }}</span> <span class="says">{{ line.says }}</span> <TakeBack v-if="line.kind !== 'work' && job.assessment.closed === null" :fact="line.fact" what="this line" /></li>
    </ol>
  </section>
</template>

<style scoped>
.along {
  border-top: 1px solid var(--rule);
  padding-top: 10px;
}

ol {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}

li {
  align-items: baseline;
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
  border-left: 3px solid var(--rule);
  padding: 2px 0 2px 12px;
}

.says {
  flex: 1 1 240px;
}

.try {
  border-left-color: var(--copper);
}

.work {
  border-left-color: var(--petrol);
}

.when {
  font-size: 14px;
}
</style>
