<script setup lang="ts">
import { computed, watch } from 'vue'
import { RouterLink, RouterView, useRoute, useRouter } from 'vue-router'
import { Refusal } from '@/api/client'
import { useJobQuery, useTermsQuery } from '@/api/queries'
import { digitsOf, jobNumber } from '@/composables/format'
import { origin, told } from '@/composables/origin'
import { useDriven } from '@/composables/useDriven'
import { provideFigure } from '@/composables/useFigure'
import { provideJob } from '@/composables/useJob'
import { provideLive } from '@/composables/useLive'
import { provideWiggle } from '@/composables/useWiggle'
import { useShortcuts } from '@/composables/useShortcuts'
import StackFigure from '@/figures/StackFigure.vue'
import WeldSeam from '@/figures/WeldSeam.vue'
import { stagePath } from '@/router'
import { errand } from './acts'
import LastAct from './LastAct.vue'
import LiveLine from './LiveLine.vue'
import NoteTry from './NoteTry.vue'
import WorkDone from './WorkDone.vue'

const route = useRoute()
const router = useRouter()
const id = computed(() => Number(route.params.id))
const { data: view, error } = useJobQuery(id)
const { data: terms } = useTermsQuery()
const figure = provideFigure()
const live = provideLive(id)
provideWiggle(live)

const job = computed(() => view.value!)
provideJob(job)

const { rising } = useDriven(computed(() => view.value ?? null), live.frame)
const intake = computed(() => job.value.facts.intake)
const window = computed(() => terms.value?.chemistries.find((c) => c.key === intake.value.pack.chemistry))
const shown = computed(() => String(route.name))
const seam = computed(() =>
  (terms.value?.stages ?? []).map(({ key, name }) => ({
    key,
    name,
    to: stagePath(id.value, key),
    wants: job.value.assessment.wants?.[key as keyof typeof job.value.assessment.wants] ?? '',
  })),
)
// In Prove and after, the pane shows the proving set once it has a reading, with the first probing as faint marks.
const assessed = computed(() => {
  const a = job.value.assessment
  const late = shown.value === 'prove' || shown.value === 'hand_over'
  return late && a.prove && a.prove.readings.length > 0 ? a.prove : a.probe
})
const before = computed(() => (assessed.value?.set.purpose === 'prove' ? job.value.assessment.probe : job.value.assessment.before))
// What the number under the focus came from; it is told beside the figure, where the eye goes anyway.
const story = computed(() => (origin.value ? told(origin.value, job.value.facts.readings, digits.value) : null))
const digits = computed(() => (assessed.value ? Math.min(digitsOf(assessed.value.set.meter.resolution_v), 3) : 2))

watch([() => view.value?.facts.intake.pack_name, shown, terms], ([name]) => {
  const stage = terms.value?.stages.find((t) => t.key === shown.value)?.name ?? shown.value
  if (name) document.title = `${stage} · ${name} · Saldatura`
})

// What Judge sent the hand here for; once back, or at another job, it is done with.
const sent = computed(() => (errand.value?.job === id.value && shown.value !== 'judge' ? errand.value.says : null))
watch(shown, (now) => now === 'judge' && (errand.value = null))

useShortcuts(() =>
  (terms.value?.stages ?? []).map(({ key, name }, i) => ({
    key: String(i + 1),
    alt: true,
    does: `show ${name}`,
    run: () => void router.push(stagePath(id.value, key)),
  })),
)
</script>

<template>
  <div v-if="view && terms && window" class="frame">
    <header class="ribbon">
      <RouterLink to="/" class="name" :title="`${intake.pack_name}, ${intake.customer}: back to Today`">
        <span class="who"><strong>{{ intake.pack_name }}</strong><span v-if="job.assessment.simulated" class="simulated">simulated</span></span>
        <span class="muted">{{ job.now.label }}<template v-if="job.now.came">, was {{ job.now.came }}</template> · {{ window.name }} · {{ job.now.rated_ah }} Ah · <template v-if="job.assessment.hazard">{{ Math.round(job.assessment.hazard.energy_wh) }} Wh · </template> job {{ jobNumber(job.facts.id) }}</span>
      </RouterLink>
      <WeldSeam :stages="seam" :reached="job.assessment.stage" :shown="shown" class="seam" />
    </header>
    <section class="pack" aria-label="The pack">
      <StackFigure
        :series="intake.pack.series"
        :strings="intake.pack.strings"
        :window="window"
        :digits="digits"
        :assessed="assessed"
        :before="before"
        :lit="figure.lit.value"
        :origin="story"
        :simulated="job.assessment.simulated"
        :rising="rising"
        :now="job.now"
        :ends="shown === 'judge'"
        :pickable="figure.pick.value !== null"
        @pick="figure.pick.value?.($event)"
      />
      <LiveLine :job-id="id" />
      <LastAct />
    </section>
    <aside v-if="sent" class="errand" role="status"><span><span class="muted">For Judge:</span> {{ sent }}</span><RouterLink :to="stagePath(id, 'judge')">Back to Judge</RouterLink></aside>
    <RouterView :key="id" />
    <WorkDone />
    <NoteTry />
    <aside v-if="job.assessment.troubles?.length" class="troubles" role="alert">
      <p v-for="trouble in job.assessment.troubles" :key="trouble">{{ trouble }}</p>
    </aside>
  </div>
  <main v-else-if="error" class="lost">
    <h1>This job cannot be shown</h1>
    <p class="error">{{ error instanceof Refusal ? error.message : 'The program failed at this.' }}</p>
    <p><a :href="`/api/jobs/${id}/export`" download>Export its facts as they are</a></p>
    <RouterLink to="/">Back to Today</RouterLink>
  </main>
  <main v-else class="lost" aria-busy="true"><p class="muted">Fetching the job</p></main>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template: var(--ribbon) auto minmax(0, 1fr) / var(--pack-pane) minmax(0, 1fr) var(--judge-pane);
}

.ribbon {
  background: var(--paper);
  border-bottom: 1px solid var(--ink);
  display: grid;
  grid-column: 1 / -1;
  grid-template-columns: var(--pack-pane) minmax(0, 1fr);
}

.name {
  align-content: center;
  border-right: 1px solid var(--ink);
  color: var(--ink);
  display: grid;
  overflow: hidden;
  padding: 0 18px;
  text-decoration: none;
  white-space: nowrap;
}

.name strong,
.name span {
  overflow: hidden;
  text-overflow: ellipsis;
}

.name span {
  font-size: 14px;
}

.name .who {
  display: flex;
  font-size: inherit;
  gap: 10px;
}

.name .simulated {
  border: 1px solid currentcolor;
  color: var(--copper);
  flex: none;
  font-weight: 650;
  padding: 0 6px;
}

.seam {
  padding: 0 20px 0 28px;
}

.frame > :deep(:is(.work, .judgement)) {
  grid-row: 3;
}

.pack {
  background: var(--sheet);
  grid-row: 2 / 4;
  border-right: 1px solid var(--rule);
  display: grid;
  grid-template: minmax(0, 1fr) auto auto / minmax(0, 1fr);
  min-height: 0;
  padding: 10px 8px 0 10px;
}

.errand {
  align-items: center;
  background: var(--copper-tint);
  border-bottom: 2px solid var(--copper);
  display: flex;
  gap: 18px;
  grid-column: 2 / -1;
  grid-row: 2;
  justify-content: space-between;
  padding: 0 20px 0 28px;
}

.errand a {
  align-items: center;
  display: inline-flex;
  font-weight: 650;
  min-height: 44px;
}

.troubles {
  background: var(--copper-tint);
  border-top: 2px solid var(--copper);
  grid-column: 2 / -1;
  padding: 8px 20px;
}

.lost {
  display: grid;
  align-content: center;
  gap: 16px;
  justify-items: center;
}
</style>
