<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import type { Schemas } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import { labelOf } from '@/composables/build'
import { clock, day, jobNumber } from '@/composables/format'
import { useNow } from '@/composables/useNow'
import { stagePath } from '@/router'
import { shortly } from './when'

/** Every job by where it stands, with what it wants next. */
const props = defineProps<{ jobs: Schemas['ListedJob'][]; counts: Record<string, number>; steps: Record<string, string>; late: Schemas['LateJob'][]; allSimulated: boolean }>()
const now = useNow()
const { data: terms } = useTermsQuery()
const lanes = computed(() =>
  (terms.value?.standings ?? []).map(({ key, name }) => ({ standing: key, name, count: props.counts[key] ?? 0, jobs: props.jobs.filter((j) => j.standing === key) })).filter((lane) => lane.jobs.length),
)
const chemistry = (key: string) => terms.value?.chemistries.find((c) => c.key === key)?.name
const touched = (iso: string) => (new Date(iso).toDateString() === new Date(now.value).toDateString() ? clock(iso) : day(iso))
const lateOf = (id: number) => props.late.find((l) => l.job_id === id)
const to = (job: Schemas['ListedJob']) =>
  stagePath(job.id, job.standing === 'quarantine' ? 'take_in' : job.standing === 'done' || job.standing === 'scrap' ? 'hand_over' : job.standing)
</script>

<template>
  <section v-for="lane in lanes" :key="lane.standing" class="lane" :class="lane.standing">
    <h2>{{ lane.name }} <span class="mono">{{ lane.count }}</span></h2>
    <ul>
      <li v-for="job in lane.jobs" :key="job.id">
        <RouterLink :to="to(job)" class="job">
          <span class="mono muted">{{ jobNumber(job.id) }}</span>
          <span class="pack"><strong>{{ job.pack_name }}</strong> <span class="muted">{{ job.customer }}</span></span>
          <span class="next">{{ steps[job.id] ?? '' }}<span v-if="lateOf(job.id)" class="late">promised {{ shortly(lateOf(job.id)!.ready, now) }}, planned {{ shortly(lateOf(job.id)!.planned, now) }}</span></span>
          <span class="build muted" :title="chemistry(job.pack.chemistry)">{{ labelOf(job.pack) }}<template v-if="job.simulated && !allSimulated">, simulated</template></span>
          <span class="muted when">{{ touched(job.touched_at) }}</span>
        </RouterLink>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.lane {
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 0 20px;
  grid-template-columns: 124px minmax(0, 1fr);
  padding: 6px 0;
}

.lane h2 {
  font-size: 16px;
  padding-top: 11px;
}

.lane h2 .mono {
  color: var(--muted);
  font-weight: 400;
  margin-left: 4px;
}

.quarantine h2 {
  color: var(--hazard);
}

.quarantine ul {
  background: linear-gradient(var(--paper), var(--paper)) 6px 0 / 100% no-repeat, repeating-linear-gradient(-45deg, var(--hazard) 0 6px, transparent 6px 11px) 0 0 / 6px 100% no-repeat;
  border-left: 0;
  padding-left: 12px;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

.job {
  align-items: baseline;
  color: var(--ink);
  display: grid;
  gap: 14px;
  grid-template-columns: 46px minmax(0, 1fr) minmax(0, 215px) 58px 72px;
  min-height: 44px;
  padding: 10px 8px;
  text-decoration: none;
}

.job:hover {
  background: var(--petrol-tint);
}

.job:hover strong {
  color: var(--petrol-deep);
}

.job > .pack {
  display: grid;
  white-space: normal;
}

.job > .pack .muted {
  font-size: 14px;
}

.job > span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.job > .next {
  color: var(--petrol);
  display: grid;
  white-space: normal;
}

.late {
  color: var(--hazard);
  font-size: 14px;
}

.build,
.when {
  font-size: 14px;
}

.when {
  text-align: right;
}

@media (max-width: 1100px) {
  .job {
    grid-template-columns: 46px minmax(0, 1fr) 72px;
  }

  .build {
    display: none;
  }

  .job > .next {
    grid-column: 2;
    grid-row: 2;
  }

  .lane {
    grid-template-columns: 108px minmax(0, 1fr);
  }
}
</style>
