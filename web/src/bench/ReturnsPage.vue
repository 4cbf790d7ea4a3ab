<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import { client, settled } from '@/api/client'
import { day, duration } from '@/composables/format'
import StillOut from '@/figures/StillOut.vue'
import OpenFrame from './OpenFrame.vue'

/** What came back of what was handed over, by kind of repair: the only grade a repair gets. */
const { data, error } = useQuery({ queryKey: ['returns'], queryFn: () => settled(client.GET('/api/returns')) })
const until = computed(() => Math.max(30, ...(data.value?.curves ?? []).map((c) => c.longest_days)))
const returned = computed(() => (data.value?.curves ?? []).flatMap((c) => c.returned.map((r) => ({ ...r, name: c.name }))).toSorted((a, b) => b.back_job - a.back_job))
const { data: numbers } = useQuery({ queryKey: ['numbers', null], queryFn: () => settled(client.GET('/api/shop-numbers')) })
const promises = computed(() => numbers.value?.promises)
const number = (job: number) => String(job).padStart(4, '0')
</script>

<template>
  <OpenFrame title="Returns" under="What came back, when and why">
    <main class="returns">
      <h1>{{ data ? (data.back ? `${data.back} of ${data.went} packs handed over came back` : `Of ${data.went} packs handed over none came back`) : 'What came back' }}</h1>
      <p v-if="error" class="error" role="alert">The returns cannot be shown.</p>
      <p v-else-if="data && !data.went" class="muted">A pack counts from the day it is signed and handed back. It is recognised by its serial, or when its own job is opened again.</p>
      <p v-else class="muted lead">The share still out, with the band that holds it in 95 of 100 cases; a ring is a return. Plans count it in their chances and years.<strong v-if="data?.simulated"> All of these packs were simulated; the first real one that goes out replaces them.</strong></p>
      <section v-for="c in data?.curves ?? []" :key="c.kind" class="curve">
        <h2>{{ c.name }} <span class="muted">{{ c.went }} out, {{ c.back }} back</span></h2>
        <StillOut :points="c.points" :until="until" :name="c.name" />
        <p>{{ c.says }}</p>
      </section>
    </main>
    <aside class="side">
      <h2>Promises</h2>
      <p>{{ promises?.says ?? '' }}<span v-if="promises?.expected" class="muted"> By the chances they were told with, {{ Math.round(promises.expected) }} of {{ promises.made }} were to be expected.</span></p>
      <p v-for="b in promises?.broken.slice(0, 6) ?? []" :key="b.job_id" class="muted"><RouterLink :to="`/jobs/${b.job_id}`">{{ b.pack_name }}</RouterLink> {{ day(b.ready) }}: {{ duration(b.late_h * 3600) }} late</p>
      <p><RouterLink to="/numbers">Numbers of the shop</RouterLink></p>
      <h2>Came back</h2>
      <p v-if="!returned.length" class="muted">None yet.</p>
      <article v-for="r in returned" :key="`${r.job_id}-${r.back_job}-${r.days}`">
        <p><RouterLink :to="`/jobs/${r.back_job}`">{{ r.pack_name }}</RouterLink> after {{ Math.round(r.days) }} {{ Math.round(r.days) === 1 ? 'day' : 'days' }}</p>
        <p class="muted">{{ r.name }} on job {{ number(r.job_id) }}. Now: {{ r.why.charAt(0).toLowerCase() + r.why.slice(1) }}.</p>
      </article>
      <p class="muted open">Everything recorded here, as open files: <a href="/api/shop/export.zip" download>export the whole shop</a></p>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.returns {
  align-content: start;
  display: grid;
  gap: 18px;
  overflow: auto;
  padding: 24px 32px;
}

.lead {
  max-width: 70ch;
}

.curve {
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 8px;
  padding-top: 12px;
}

h2 .muted {
  font-size: 14px;
  font-weight: 400;
}

.side {
  align-content: start;
  border-left: 1px solid var(--ink);
  display: grid;
  gap: 14px;
  overflow: auto;
  padding: 24px 18px;
}

.side article p {
  margin: 0;
}

.open {
  border-top: 1px solid var(--rule);
  padding-top: 12px;
}
</style>
