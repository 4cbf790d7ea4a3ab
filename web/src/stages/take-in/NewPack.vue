<script setup lang="ts">
import { useStorage, watchDebounced } from '@vueuse/core'
import { computed, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { client, Refusal, type Schemas, settled } from '@/api/client'
import { useTermsQuery } from '@/api/queries'
import OpenFrame from '@/bench/OpenFrame.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { useAct } from '@/composables/useAct'
import { useSettings } from '@/composables/useSettings'
import StackFigure from '@/figures/StackFigure.vue'
import { stagePath } from '@/router'
import TextField from '@/forms/TextField.vue'
import { send } from '@/stages/probe/usePhotos'
import PromiseLine from '@/today/PromiseLine.vue'
import { usePromiseQuery } from '@/today/useDay'
import HazardFigures from './HazardFigures.vue'
import IntakeFields from './IntakeFields.vue'
import PhotosToKeep from './PhotosToKeep.vue'
import SafetyScreen from './SafetyScreen.vue'
import { emptyDraft, intakeOf, noAnswers, packOf, safetyOf } from './draft'

const router = useRouter()
const route = useRoute()
const wanted = computed(() => (/^\d+$/.test(String(route.query.pattern ?? '')) ? Number(route.query.pattern) : null))
const { data: terms } = useTermsQuery()
const draft = useStorage('saldatura.draft', emptyDraft())
const answers = useStorage('saldatura.draft.safety', noAnswers())
const { act, busy, refusal } = useAct()

const hazard = shallowRef<Schemas['Hazard'] | null>(null)
watchDebounced(
  () => packOf(draft.value),
  async (pack) => {
    hazard.value = pack.chemistry && pack.series && pack.parallel && pack.rated_ah ? hazard.value : null
    if (!pack.chemistry || !pack.series || !pack.parallel || !pack.rated_ah) return
    try {
      hazard.value = await settled(client.POST('/api/compute/hazard', { body: { pack } }))
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      hazard.value = null
    }
  },
  { debounce: 120, immediate: true, deep: true },
)

const window = computed(() => terms.value?.chemistries.find((c) => c.key === draft.value.chemistry))
const series = computed(() => {
  const n = packOf(draft.value).series
  return Number.isInteger(n) && n >= 1 && n <= 40 ? n : 0
})
const strings = computed(() => {
  const n = packOf(draft.value).strings
  return Number.isInteger(n) && n >= 1 && series.value % n === 0 ? n : 1
})
const safety = computed(() => safetyOf(answers.value))
const unanswered = computed(() => Object.values(answers.value).filter((a) => a === null).length)
const missing = computed(() => (draft.value.chemistry ? null : 'Chemistry: choose one; “4.20 V lithium-ion” where only that is known.'))
const asked = shallowRef(false)
const photos = shallowRef<File[]>([])
const { data: promise } = usePromiseQuery(() => null)
const promised = shallowRef(false)
const by = shallowRef(useSettings().value.technician)

async function takeIn() {
  asked.value = true
  if (missing.value || !safety.value) return
  const view = await act(() => settled(client.POST('/api/jobs', { body: { intake: intakeOf(draft.value), safety: safety.value, pattern: draft.value.pattern?.id ?? null } })))
  if (!view) return
  // The pack is taken in: whatever becomes of the photos, it is not taken in twice.
  asked.value = false
  draft.value = emptyDraft()
  answers.value = noAnswers()
  if (promised.value && promise.value?.ready && by.value.trim()) {
    const body = { ready: promise.value.ready, chance: promise.value.chance, by: by.value }
    await act(() => settled(client.POST('/api/jobs/{job_id}/promises', { params: { path: { job_id: view.facts.id } }, body }))).catch(() => null)
  }
  promised.value = false
  let unsent = 0
  for (const photo of photos.value) if (!(await act(() => send(view.facts.id, photo, 'as it came')).catch(() => null))) unsent++
  photos.value = []
  if (unsent) return void router.push({ path: stagePath(view.facts.id, 'take_in'), query: { unsent } })
  void router.push(stagePath(view.facts.id, view.assessment.quarantine.length ? 'take_in' : 'probe'))
}
</script>

<template>
  <OpenFrame title="Take in a pack" under="A new job">
    <template #pack>
      <StackFigure v-if="window && series" :series="series" :strings="strings" :window="window" :digits="2" :assessed="null" />
      <p v-else class="waiting muted">The string is drawn here once chemistry and series are known.</p>
    </template>
    <StageLayout>
      <form v-if="terms" class="form" @submit.prevent="takeIn">
        <h1>Whose pack is it, and which pack</h1>
        <IntakeFields v-model="draft" :terms="terms" :refusal="refusal" :wanted="wanted" fresh />
        <PhotosToKeep v-model="photos" />
        <SafetyScreen v-model="answers" :terms="terms" />
        <p v-if="asked && missing" class="error" role="alert">{{ missing }}</p>
        <p v-if="asked && !safety" class="error" role="alert">Safety: {{ unanswered }} of six questions {{ unanswered === 1 ? 'is' : 'are' }} open; answer each.</p>
        <p v-if="refusal" class="error" role="alert">{{ refusal.lines.length === 1 ? refusal.lines[0]?.message : `${refusal.lines.length} fields need a correction; each says which.` }}</p>
        <ElButton type="primary" size="large" native-type="submit" :loading="busy">Take it in</ElButton>
      </form>
      <template #judgement>
        <HazardFigures :hazard="hazard" />
        <PromiseLine />
        <label v-if="promise?.ready" class="tell"><input v-model="promised" type="checkbox" /> Promise it as it is taken in</label>
        <TextField v-if="promised" v-model="by" label="Promised by" maxlength="60" />
        <p class="muted small">Local codes, the cell maker's data sheet and carriage rules come before anything said here.</p>
      </template>
    </StageLayout>
  </OpenFrame>
</template>

<style scoped>
.form {
  display: grid;
  gap: 18px;
}

.form > button {
  justify-self: start;
}

.tell {
  align-items: center;
  display: flex;
  gap: 10px;
  min-height: 44px;
}

.tell input {
  height: 22px;
  width: 22px;
}

.waiting {
  padding: 20px;
}

.small {
  font-size: 14px;
  margin-top: auto;
}
</style>
