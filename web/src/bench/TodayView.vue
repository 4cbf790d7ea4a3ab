<script setup lang="ts">
import { labelOf } from '@/composables/build'
import { useDebounce } from '@vueuse/core'
import { computed, shallowRef, useTemplateRef } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { keepJob, useHandsQuery, useJobsQuery, useTermsQuery, useWaitingQuery } from '@/api/queries'
import OpenFrame from '@/bench/OpenFrame.vue'
import { clock, day, duration, jobNumber } from '@/composables/format'
import { useNow } from '@/composables/useNow'
import { useShortcuts } from '@/composables/useShortcuts'
import { stagePath } from '@/router'
import { target, waitsFor } from './waits'
import FileButton from '@/forms/FileButton.vue'

type Standing = Schemas['ListedJob']['standing']

const router = useRouter()
const search = shallowRef('')
const archived = shallowRef(false)
const asked = useDebounce(search, 150)
const { data, isError: unlisted } = useJobsQuery(asked, archived)
// What is searched for may lie on the other shelf.
const { data: other } = useJobsQuery(asked, computed(() => !archived.value))
const elsewhere = computed(() => (asked.value.trim() ? (other.value?.jobs ?? []) : []))
const { data: terms } = useTermsQuery()
const { data: waiting, isError: unanswered } = useWaitingQuery()
const { data: hands } = useHandsQuery()
const acts = computed(() => (archived.value || search.value.trim() ? [] : (hands.value?.acts ?? []).slice(0, 3)))
const nextOf = (job: Schemas['ListedJob']) => hands.value?.steps[job.id]?.says ?? ''
const now = useNow()

const standings = computed(() => terms.value?.standings ?? [])
const lanes = computed(() =>
  standings.value.map(({ key, name }) => ({
    standing: key,
    name,
    count: data.value?.counts[key as Standing] ?? 0,
    jobs: data.value?.jobs.filter((j) => j.standing === key) ?? [],
  })).filter((lane) => lane.jobs.length),
)
const open = computed(() => Object.entries(data.value?.counts ?? {}).reduce((n, [standing, count]) => n + (standing === 'done' || standing === 'scrap' ? 0 : count), 0))
const found = computed(() => Object.values(data.value?.counts ?? {}).reduce((n, count) => n + count, 0))
const stageName = (key: string) => terms.value?.stages.find((s) => s.key === key)?.name ?? key
const chemistry = (key: string) => terms.value?.chemistries.find((c) => c.key === key)?.name
const touched = (iso: string) => (new Date(iso).toDateString() === new Date(now.value).toDateString() ? clock(iso) : day(iso))
const to = (job: Schemas['ListedJob']) =>
  stagePath(job.id, job.standing === 'quarantine' ? 'take_in' : job.standing === 'done' || job.standing === 'scrap' ? 'hand_over' : job.standing)

/** Enter opens the only job that matches, wherever it lies. */
function openOnly() {
  const all = [...(data.value?.jobs ?? []), ...elsewhere.value]
  if (asked.value.trim() && asked.value === search.value && all.length === 1) void router.push(to(all[0]!))
}

const refusal = shallowRef<Refusal | null>(null)
async function bringIn(chosen: File) {
  refusal.value = null
  try {
    const document = JSON.parse(await chosen.text())
    const view = await settled(client.POST('/api/jobs/import', { body: document }))
    keepJob(view)
    void router.push(stagePath(view.facts.id, view.assessment.frozen ? 'hand_over' : view.assessment.stage))
  } catch (error) {
    refusal.value = error instanceof Refusal ? error : new Refusal([{ field: 'file', message: `${chosen.name} is not valid JSON, so it is damaged or no job file; export it again` }], 0)
  }
}

// Said once where it is so of all: on every line it would crowd out the packs.
const allSimulated = computed(() => Boolean(data.value?.jobs.length) && data.value!.jobs.every((job) => job.simulated || job.standing === 'quarantine'))
const find = useTemplateRef<{ focus: () => void }>('find')
useShortcuts([{ key: '/', does: 'find a job', run: () => find.value?.focus() }])
</script>

<template>
  <OpenFrame title="Saldatura" :under="now ? new Date(now).toLocaleDateString(undefined, { weekday: 'long', day: 'numeric', month: 'long' }) : ''">
    <main class="today">
      <div class="head">
        <h1 v-if="archived">The archive</h1>
        <h1 v-else-if="search.trim()">{{ found }} {{ found === 1 ? 'job matches' : 'jobs match' }}</h1>
        <h1 v-else>{{ open }} {{ open === 1 ? 'pack' : 'packs' }} on the bench</h1>
        <ElInput ref="find" v-model="search" class="find" aria-label="Find a job" placeholder="Find customer, pack, serial, number" clearable @keydown.enter.prevent="openOnly" @keydown.esc.stop="search = ''" />
      </div>
      <p v-if="allSimulated" class="muted all">Every pack here is simulated.</p>
      <p v-if="unlisted" class="error" role="alert">The jobs cannot be listed: Saldatura does not answer.</p>
      <p v-for="line in data?.unread ?? []" :key="line" class="error" role="alert">{{ line }}</p>
      <p v-if="data && !data.jobs.length && !data.unread?.length" class="empty">
        {{ search ? `No job ${archived ? 'in the archive' : ''} matches “${search}”.` : archived ? 'Nothing is in the archive: signed jobs go there from Hand over.' : 'No pack yet: take one in, and after eight readings you know what it holds.' }}
      </p>
      <section v-if="acts.length" class="hands" aria-label="Next">
        <h2>Next</h2>
        <ol>
          <li v-for="(a, i) in acts" :key="`${a.job_id}${a.says}`">
            <RouterLink :to="stagePath(a.job_id, a.stage)" :class="{ first: i === 0 }">
              <strong>{{ a.says }}</strong>
              <span>{{ a.pack_name }}<span class="muted">, in {{ stageName(a.stage) }}<template v-if="a.due">, due for {{ duration((now - new Date(a.due).getTime()) / 1000) }}</template></span></span>
            </RouterLink>
          </li>
        </ol>
      </section>
      <section v-for="lane in lanes" :key="lane.standing" class="lane" :class="lane.standing">
        <h2>{{ lane.name }} <span class="mono">{{ lane.count }}</span></h2>
        <ul>
          <li v-for="job in lane.jobs" :key="job.id">
            <RouterLink :to="to(job)" class="job">
              <span class="mono muted">{{ jobNumber(job.id) }}</span>
              <span class="pack"><strong>{{ job.pack_name }}</strong> <span class="muted">{{ job.customer }}</span></span>
              <span class="next">{{ nextOf(job) }}</span>
              <span class="build muted" :title="chemistry(job.pack.chemistry)">{{ labelOf(job.pack) }}<template v-if="job.simulated && !allSimulated">, simulated</template></span>
              <span class="muted when">{{ touched(job.touched_at) }}</span>
            </RouterLink>
          </li>
        </ul>
      </section>
      <p v-if="elsewhere.length" class="other"><button type="button" class="linklike" @click="archived = !archived">{{ elsewhere.length }} more {{ elsewhere.length === 1 ? 'matches' : 'match' }} {{ archived ? 'on the bench' : 'in the archive' }}: show {{ elsewhere.length === 1 ? 'it' : 'them' }}</button></p>
      <p class="shelf"><button type="button" class="linklike" @click="archived = !archived">{{ archived ? 'Show on the bench' : 'Show the archive' }}</button></p>
    </main>
    <aside class="side" aria-label="Waiting">
      <RouterLink v-slot="{ navigate }" to="/take-in" custom>
        <ElButton type="primary" size="large" class="wide" @click="navigate()">Take in a pack</ElButton>
      </RouterLink>
      <h2>Waiting</h2>
      <p v-if="unanswered" class="error" role="alert">The waiting list cannot be shown: Saldatura does not answer.</p>
      <p v-if="waiting?.clock" class="error" role="alert">{{ waiting.clock }}</p>
      <p v-for="line in waiting?.unread ?? []" :key="line" class="error" role="alert">{{ line }}</p>
      <p v-if="waiting && !waiting.waiting.length && !unanswered && !waiting.unread?.length" class="muted">Nothing is charging or resting. A group put on a charger in Level shows here with its time left.</p>
      <ol v-if="waiting?.waiting.length" class="waits">
        <li v-for="w in waiting.waiting" :key="`${w.job_id}${w.kind}${w.group}`">
          <RouterLink :to="target(w)"><strong>{{ w.pack_name }}</strong></RouterLink>
          <span>{{ waitsFor(w) }}.</span>
          <span class="mono">{{ new Date(w.done).getTime() - now > 20 * 3600_000 ? `${day(w.done)}, ` : '' }}{{ clock(w.done_low) }}<template v-if="w.kind === 'charge'"> – {{ clock(w.done_high) }}</template></span>
          <span class="muted">since {{ duration((now - new Date(w.since).getTime()) / 1000) }}<template v-if="w.look_again">, look again at {{ clock(w.look_again) }}</template></span>
        </li>
      </ol>
      <div class="import">
        <h2>A job from elsewhere</h2>
        <FileButton label="Choose an exported job file" accept="application/json,.json" @chosen="bringIn" />
        <p v-for="line in refusal?.lines" :key="line.field" class="error" role="alert">{{ line.message }}</p>
      </div>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.today {
  min-height: 0;
  overflow: auto;
  padding: 20px 28px;
}

.head {
  align-items: end;
  display: flex;
  gap: 24px;
  justify-content: space-between;
  margin-bottom: 14px;
}

.find {
  max-width: 330px;
}

.all {
  font-size: 14px;
  margin: -8px 0 8px;
}

.hands {
  border-top: 1px solid var(--ink);
  display: grid;
  gap: 0 20px;
  grid-template-columns: 124px minmax(0, 1fr);
  padding: 10px 0 12px;
}

.hands h2 {
  color: var(--copper);
  font-size: 16px;
  padding-top: 11px;
}

.hands a {
  align-items: baseline;
  border-left: 4px solid var(--rule);
  color: var(--ink);
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  justify-content: space-between;
  min-height: 44px;
  padding: 9px 12px;
  text-decoration: none;
}

.hands a strong {
  color: var(--petrol);
}

.hands a:hover {
  background: var(--petrol-tint);
}

.hands .first {
  background: var(--copper-tint);
  border-left-color: var(--copper);
  font-size: 19px;
}

.next {
  color: var(--petrol);
}

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
  border-left: 0;
  padding-left: 12px;
  background: linear-gradient(var(--paper), var(--paper)) 6px 0 / 100% no-repeat, repeating-linear-gradient(-45deg, var(--hazard) 0 6px, transparent 6px 11px) 0 0 / 6px 100% no-repeat;
}

ul,
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}

.job {
  align-items: baseline;
  color: var(--ink);
  display: grid;
  gap: 14px;
  grid-template-columns: 46px minmax(0, 1fr) minmax(0, 215px) 58px 52px;
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

.build,
.when {
  font-size: 14px;
}

.when {
  text-align: right;
}

.shelf {
  border-top: 1px solid var(--rule);
}

.shelf .linklike {
  margin: 0;
}

.side {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  display: flex;
  flex-direction: column;
  gap: 14px;
  min-height: 0;
  overflow: auto;
  padding: 20px;
}

.wide {
  width: 100%;
}

.waits {
  display: grid;
  gap: 14px;
}

.waits li {
  border-left: 3px solid var(--petrol);
  display: grid;
  padding-left: 12px;
}

.import {
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 8px;
  margin-top: auto;
  padding-top: 14px;
}


@media (max-width: 1100px) {
  .job {
    grid-template-columns: 46px minmax(0, 1fr) 52px;
  }

  .build {
    display: none;
  }

  .next {
    grid-column: 2;
    grid-row: 2;
  }

  .hands,
  .lane {
    grid-template-columns: 108px minmax(0, 1fr);
  }
}

@media (max-width: 600px) {
  .today .hands {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
