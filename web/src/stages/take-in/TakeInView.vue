<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { client, settled } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import Caution from '@/bench/Caution.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { clock, day } from '@/composables/format'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import { stagePath } from '@/router'
import FileButton from '@/forms/FileButton.vue'
import PromiseLine from '@/today/PromiseLine.vue'
import { PICTURES, photoUrl, usePhotos } from '@/stages/probe/usePhotos'
import EarlierJobs from './EarlierJobs.vue'
import HazardFigures from './HazardFigures.vue'
import IntakeFields from './IntakeFields.vue'
import SafetyScreen from './SafetyScreen.vue'
import { KINDS, draftOf, intakeOf, noAnswers, safetyOf } from './draft'
import TextField from '@/forms/TextField.vue'

const job = useJob()
const router = useRouter()
const settings = useSettings()
const { data: terms } = useTermsQuery()
const { act, busy, refusal } = useAct()

const facts = computed(() => job.value.facts)
const intake = computed(() => facts.value.intake)
const path = computed(() => ({ path: { job_id: facts.value.id } }))
const quarantine = computed(() => job.value.assessment.quarantine)
const screened = computed(() => facts.value.safety?.at(-1) ?? null)

const correcting = shallowRef(false)
const draft = ref(draftOf(intake.value))
// What another window told since is not written over.
const seen = shallowRef(0)
function correct() {
  seen.value = facts.value.last_id
  draft.value = draftOf(intake.value)
  correcting.value = true
}
async function keep() {
  const view = await act(() => settled(client.POST('/api/jobs/{job_id}/intake', { params: { ...path.value, query: { seen: seen.value } }, body: intakeOf(draft.value) })))
  if (view) correcting.value = false
}

const { add, busy: sending, photos, said: unsent } = usePhotos(job)

const route = useRoute()
// Photos that were chosen at the counter and did not get here.
const lost = computed(() => Math.max(Number(route.query.unsent ?? 0) - photos.value.length, 0))

const screening = shallowRef(false)
const answers = ref(noAnswers())
async function screen() {
  const safety = safetyOf(answers.value)
  if (!safety) return
  const view = await act(() => settled(client.POST('/api/jobs/{job_id}/safety', { params: path.value, body: safety })))
  if (!view) return
  screening.value = false
  answers.value = noAnswers()
  if (!view.assessment.quarantine.length) void router.push(stagePath(view.facts.id, 'probe'))
}

const archive = () => act(() => settled(client.POST('/api/jobs/{job_id}/archived', { params: path.value, body: {} })))

const release = ref({ by: settings.value.technician, reason: '', cells: '', groups: [] as number[], dried: false })
const damaged = computed(() => quarantine.value.some((q) => ['swollen', 'leaking', 'crushed'].includes(q.danger)))
const wet = computed(() => quarantine.value.some((q) => q.danger === 'wet'))
function inGroup(group: number) {
  const held = release.value.groups
  release.value.groups = held.includes(group) ? held.filter((g) => g !== group) : [...held, group]
}
// A charge that runs on a quarantined pack ends with no reading: nobody puts a probe on it.
const charging = computed(() => facts.value.charges.find((c) => !c.end) ?? null)
async function chargerOff() {
  const params = { path: { job_id: facts.value.id, charge_id: charging.value!.id } }
  await act(() => settled(client.POST('/api/jobs/{job_id}/charges/{charge_id}/end', { params, body: { outcome: 'stopped', volts: null, counted_ah: null } })))
}
async function let_go() {
  await act(() => settled(client.POST('/api/jobs/{job_id}/release', { params: path.value, body: release.value })))
}
const wishes = computed(() => (terms.value?.wishes ?? []).filter((w) => intake.value.wishes?.includes(w.key)))
const symptoms = computed(() => (intake.value.symptoms ?? []).map((s) => terms.value?.symptoms.find((t) => t.key === s)?.words))
</script>

<template>
  <StageLayout>
    <div v-if="terms" class="taken">
      <template v-if="quarantine.length">
        <h1 class="bad">In quarantine</h1>
        <section v-if="charging" class="instruction">
          <h2>The charger first</h2>
          <p>Group {{ charging.group }} is on the charger. Off at the mains, clips away, then say so here.</p>
          <ElButton type="primary" size="large" :loading="busy" @click="chargerOff">The charger is off and away</ElButton>
        </section>
        <section v-for="i in quarantine" :key="i.danger" class="instruction">
          <h2>{{ i.found }}</h2>
          <ol>
            <li v-for="line in i.do" :key="line">{{ line }}</li>
          </ol>
        </section>
        <form class="release" @submit.prevent="let_go">
          <h2>Release it</h2>
          <p class="muted">Only when the hazard is gone or the damaged cells are out. Name and reason stay in the record.</p>
          <TextField v-model="release.by" label="Who releases" :error="refusal?.on('by')" maxlength="60" />
          <TextField v-model="release.reason" label="Why it is safe now" :error="refusal?.on('reason')" maxlength="400" />
          <TextField v-model="release.cells" label="What became of the damaged cells, if any" :error="refusal?.on('cells')" maxlength="400" />
          <div v-if="damaged" class="chips" role="group" aria-label="Groups of the damaged cells"><span>They are in group</span><button v-for="g in job.now.series" :key="g" type="button" class="chip" :aria-pressed="release.groups.includes(g)" @click="inGroup(g)">{{ g }}</button></div>
          <p v-if="damaged" class="muted">The release lets them be taken out. They are never charged or used again, and without a group named no group is.</p>
          <label v-if="wet" class="dried"><input v-model="release.dried" type="checkbox" /> it was dried, and is dry</label>
          <p v-if="refusal && !refusal.lines.some((l) => ['by', 'reason', 'cells'].includes(l.field))" class="error" role="alert">{{ refusal.message }}</p>
          <ElButton native-type="submit" :loading="busy">Record the release</ElButton>
        </form>
      </template>

      <form v-if="correcting" class="block" @submit.prevent="keep">
        <h1>Correct what was taken in</h1>
        <IntakeFields v-model="draft" :terms="terms" :refusal="refusal" />
        <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
        <div class="buttons">
          <ElButton type="primary" native-type="submit" :loading="busy">Save the corrections</ElButton>
          <ElButton @click="correcting = false">Discard the changes</ElButton>
        </div>
      </form>
      <section v-else class="block">
        <h1 v-if="!quarantine.length">{{ intake.pack_name }}</h1>
        <dl class="facts">
          <dt>Customer</dt><dd>{{ intake.customer }}<template v-if="intake.contact">, {{ intake.contact }}</template></dd>
          <dt>Serial or tag</dt><dd>{{ intake.serial || 'none' }}</dd>
          <dt>Taken in</dt><dd>{{ day(facts.opened_at) }} {{ clock(facts.opened_at) }}</dd>
          <dt>Customer saw</dt><dd>{{ symptoms.length ? symptoms.join(' · ') : 'nothing said' }}</dd>
          <template v-for="w in wishes" :key="w.key"><dt>Asks for</dt><dd>{{ w.words }}<span class="muted">: {{ w.answer }}</span></dd></template>
          <dt>In their words</dt><dd>{{ intake.note || 'nothing said' }}</dd>
          <dt>It is for</dt><dd>{{ intake.kind === 'other' ? 'something else' : KINDS[intake.kind] }}{{ intake.age_years == null ? '' : `, ${intake.age_years} years old` }}</dd>
          <template v-if="job.now.came"><dt>Built</dt><dd>{{ job.now.label }} now; it came as {{ job.now.came }}</dd></template>
          <dt>Device draws</dt><dd>{{ intake.pack.load_a ? `${intake.pack.load_a} A` : 'not known' }}</dd>
        </dl>
        <p class="photos">
          <img v-for="(p, i) in photos" :key="p.photo.id" :src="photoUrl(facts.id, p.photo.id)" :alt="p.photo.caption || `photo ${i + 1}`" />
          <FileButton v-if="!job.assessment.frozen && !quarantine.length" :quiet="photos.length > 0" :label="photos.length ? 'Add a photo' : 'Take or choose a photo as it came'" :accept="PICTURES" :busy="sending" @chosen="add($event, 'as it came')" />
        </p>
        <p v-if="unsent" class="error" role="alert">{{ unsent }}</p>
        <p v-else-if="lost" class="error" role="alert">{{ lost === 1 ? 'One photo was' : `${lost} photos were` }} not kept as the pack was taken in: choose {{ lost === 1 ? 'it' : 'them' }} again{{ quarantine.length ? ' once the pack is released: nothing is recorded of one in quarantine' : '' }}.</p>
        <p v-if="!job.assessment.frozen"><ElButton @click="correct">Correct this</ElButton> <button v-if="!quarantine.length && !job.assessment.archived" type="button" class="linklike" @click="archive">put the job in the archive</button><span v-if="job.assessment.archived" class="muted"> In the archive; the next thing recorded brings it back.</span></p>
      </section>

      <form v-if="!screened || screening" class="block" @submit.prevent="screen">
        <SafetyScreen v-model="answers" :terms="terms" />
        <p v-if="refusal && !correcting" class="error" role="alert">{{ refusal.message }}</p>
        <ElButton type="primary" size="large" native-type="submit" :disabled="!safetyOf(answers)" :loading="busy">Record the answers</ElButton>
      </form>
      <section v-else class="block">
        <h2>Safety screen, {{ day(screened.at) }} {{ clock(screened.at) }}</h2>
        <ul class="answers">
          <li v-for="{ key, question } in terms.safety" :key="key"><span>{{ question }}</span> <strong :class="{ bad: screened[key] }">{{ screened[key] ? 'Yes' : 'No' }}</strong></li>
        </ul>
        <p v-for="r in facts.releases" :key="r.id">Released {{ day(r.at) }} by {{ r.by }}: {{ r.reason }}<template v-if="r.cells">. The damaged cells: {{ r.cells }}</template></p>
        <ElButton v-if="!job.assessment.frozen" @click="screening = true">Look at it again</ElButton>
      </section>
    </div>
    <template #judgement>
      <Caution v-if="quarantine.length" title="No work on this pack" grave>Nothing is read, charged or opened until a release is recorded.</Caution>
      <Caution v-else-if="!screened" title="Not screened yet">Answer all six questions before a probe touches it.</Caution>
      <PromiseLine v-if="!quarantine.length && !job.assessment.frozen && !job.assessment.archived" :job="facts.id" />
      <EarlierJobs />
      <HazardFigures v-if="job.assessment.hazard" :hazard="job.assessment.hazard" />
      <RouterLink v-if="screened && !quarantine.length" v-slot="{ navigate }" :to="stagePath(facts.id, 'probe')" custom>
        <ElButton type="primary" size="large" data-next @click="navigate()">Go on to Probe</ElButton>
      </RouterLink>
    </template>
  </StageLayout>
</template>

<style scoped>
.taken {
  display: grid;
  gap: 26px;
}

.block {
  display: grid;
  gap: 14px;
  justify-items: start;
}

form.block {
  justify-items: stretch;
}

form.block > button {
  justify-self: start;
}

.bad {
  color: var(--hazard);
}

.instruction h2 {
  font-size: 18px;
}

.instruction ol {
  margin: 6px 0 0;
  padding-left: 22px;
}

.instruction li {
  margin-bottom: 3px;
}

.release {
  border-left: 4px solid var(--rule);
  display: grid;
  gap: 10px;
  padding-left: 16px;
}

.chips {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.dried {
  align-items: center;
  display: flex;
  gap: 8px;
  min-height: 44px;
}

.release > button {
  justify-self: start;
}

.facts {
  display: grid;
  gap: 6px 20px;
  grid-template-columns: auto 1fr;
  margin: 0;
}

dt {
  color: var(--muted);
}

dd {
  margin: 0;
  overflow-wrap: anywhere;
}

.photos {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}

.photos img {
  border: 1px solid var(--rule);
  height: 90px;
}

.answers {
  list-style: none;
  margin: 0;
  max-width: 560px;
  padding: 0;
  width: 100%;
}

.answers li {
  border-top: 1px solid var(--rule-soft);
  display: flex;
  justify-content: space-between;
  padding: 6px 0;
}

.buttons {
  display: flex;
  gap: 10px;
}
</style>
