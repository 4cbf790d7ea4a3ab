<script setup lang="ts">
import { useDebounce } from '@vueuse/core'
import { computed, shallowRef, useTemplateRef } from 'vue'
import { RouterLink, useRouter } from 'vue-router'
import { client, Refusal, settled } from '@/api/client'
import { keepJob, useJobsQuery, useWaitingQuery } from '@/api/queries'
import OpenFrame from '@/bench/OpenFrame.vue'
import { useNow } from '@/composables/useNow'
import { useShortcuts } from '@/composables/useShortcuts'
import DayFigure from '@/figures/DayFigure.vue'
import FileButton from '@/forms/FileButton.vue'
import { stagePath } from '@/router'
import ByItself from './ByItself.vue'
import JobLanes from './JobLanes.vue'
import NowNext from './NowNext.vue'
import PresenceLine from './PresenceLine.vue'
import StandsStill from './StandsStill.vue'
import { useDayQuery } from './useDay'

/** What the hands do now and next over all jobs, and why; then all jobs. */
const router = useRouter()
const search = shallowRef('')
const archived = shallowRef(false)
const asked = useDebounce(search, 150)
const { data, isError: unlisted } = useJobsQuery(asked, archived)
// What is searched for may lie on the other shelf.
const { data: other } = useJobsQuery(asked, computed(() => !archived.value))
const elsewhere = computed(() => (asked.value.trim() ? (other.value?.jobs ?? []) : []))
const { data: waiting } = useWaitingQuery()
const { data: day, isError: unplanned } = useDayQuery()
const planned = computed(() => (archived.value || search.value.trim() ? undefined : day.value))
const now = useNow()

const open = computed(() => Object.entries(data.value?.counts ?? {}).reduce((n, [standing, count]) => n + (standing === 'done' || standing === 'scrap' ? 0 : count), 0))
const found = computed(() => Object.values(data.value?.counts ?? {}).reduce((n, count) => n + count, 0))

/** Enter opens the only job that matches, wherever it lies. */
function openOnly() {
  const all = [...(data.value?.jobs ?? []), ...elsewhere.value]
  if (asked.value.trim() && asked.value === search.value && all.length === 1) void router.push(`/jobs/${all[0]!.id}`)
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
        <h1 v-else>{{ open }} {{ open === 1 ? 'pack' : 'packs' }} on the bench<span v-if="allSimulated" class="muted all">, all simulated</span></h1>
        <ElInput ref="find" v-model="search" class="find" aria-label="Find a job" placeholder="Find customer, pack, serial, number" clearable @keydown.enter.prevent="openOnly" @keydown.esc.stop="search = ''" />
      </div>
      <p v-if="unlisted" class="error" role="alert">The jobs cannot be listed: Saldatura does not answer.</p>
      <p v-for="line in data?.unread ?? []" :key="line" class="error" role="alert">{{ line }}</p>
      <p v-if="data && !data.jobs.length && !data.unread?.length" class="empty">
        {{ search ? `No job ${archived ? 'in the archive' : ''} matches “${search}”.` : archived ? 'Nothing is in the archive: signed jobs go there from Hand over.' : 'No pack yet: take one in, and after eight readings you know what it holds.' }}
      </p>
      <template v-if="planned">
        <PresenceLine :day="planned" />
        <NowNext :day="planned" />
        <DayFigure :day="planned" />
        <StandsStill :stuck="planned.plan.stuck" />
        <p v-if="planned.pending" class="muted" role="status">{{ planned.pending }} more {{ planned.pending === 1 ? 'job is' : 'jobs are' }} being looked at; the plan is without {{ planned.pending === 1 ? 'it' : 'them' }} so far.</p>
        <p v-for="line in planned.troubles" :key="line" class="error" role="alert">{{ line }}</p>
      </template>
      <JobLanes :jobs="data?.jobs ?? []" :counts="data?.counts ?? {}" :steps="day?.steps ?? {}" :late="planned?.plan.late ?? []" :all-simulated="allSimulated" />
      <p v-if="elsewhere.length" class="other"><button type="button" class="linklike" @click="archived = !archived">{{ elsewhere.length }} more {{ elsewhere.length === 1 ? 'matches' : 'match' }} {{ archived ? 'on the bench' : 'in the archive' }}: show {{ elsewhere.length === 1 ? 'it' : 'them' }}</button></p>
      <p class="shelf"><RouterLink to="/numbers">Numbers of the shop</RouterLink><button type="button" class="linklike" @click="archived = !archived">{{ archived ? 'Show on the bench' : 'Show the archive' }}</button></p>
    </main>
    <aside class="side" aria-label="Waiting">
      <RouterLink v-slot="{ navigate }" to="/take-in" custom>
        <ElButton type="primary" size="large" class="wide" @click="navigate()">Take in a pack</ElButton>
      </RouterLink>
      <p v-if="unplanned" class="error" role="alert">The day cannot be planned: Saldatura does not answer.</p>
      <p v-if="waiting?.clock" class="error" role="alert">{{ waiting.clock }}</p>
      <p v-for="line in waiting?.unread ?? []" :key="line" class="error" role="alert">{{ line }}</p>
      <ByItself :runs="day?.plan.by_itself ?? []" />
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
  padding: 12px 28px;
}

.head {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  justify-content: space-between;
  margin-bottom: 0;
}

.find {
  max-width: 330px;
}

.all {
  font-size: 18px;
  font-weight: 400;
  letter-spacing: 0;
}

.shelf {
  border-top: 1px solid var(--rule);
  display: flex;
  flex-wrap: wrap;
  gap: 4px 24px;
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

.import {
  border-top: 1px solid var(--rule);
  display: grid;
  gap: 8px;
  margin-top: auto;
  padding-top: 14px;
}
</style>
