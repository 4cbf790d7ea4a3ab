<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import Beliefs from '@/bench/Beliefs.vue'
import Caution from '@/bench/Caution.vue'
import NextButton from '@/bench/NextButton.vue'
import StageButton from '@/bench/StageButton.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { vFrom } from '@/composables/origin'
import { useJob } from '@/composables/useJob'
import OpeningSteps from './OpeningSteps.vue'
import ProbeRun from './ProbeRun.vue'
import SetLine from './SetLine.vue'

const job = useJob()
const route = useRoute()
const router = useRouter()
const assessed = computed(() => job.value.assessment.probe)
const closed = computed(() => job.value.assessment.closed !== null)
// In the midst of a repair what was read leads on with it, and not back to Judge.
const onward = computed(() => !['judge', 'probe', 'take_in'].includes(job.value.assessment.next?.stage ?? 'judge'))
const series = computed(() => job.value.facts.intake.pack.series / job.value.facts.intake.pack.strings)
// A step names the photo that shows it.
const seePhoto = (photo: string) => void router.replace({ query: { ...route.query, view: 'photo', photo } })
const highest = computed(() => job.value.assessment.hazard?.highest_v.toFixed(0) ?? '?')
</script>

<template>
  <StageLayout>
    <ProbeRun v-if="!closed" :key="job.facts.id" purpose="probe">
      <template #line="{ scheme }"><SetLine :assessed="assessed" :scheme="scheme" /></template>
    </ProbeRun>
    <section v-else>
      <h1>{{ job.assessment.frozen ? 'Signed off' : 'No probe on this pack yet' }}</h1>
      <p class="muted">{{ job.assessment.frozen ? 'The readings are closed; they stay in the figure and on the sheet.' : job.assessment.closed }}</p>
    </section>
    <template #judgement>
      <Beliefs v-if="assessed" :verdict="assessed.verdict" :set="assessed" />
      <p v-else class="muted">Nothing is known yet: take the first readings.</p>
      <Caution v-from="{ what: 'Highest voltage', words: 'the pack as it stands: groups in series, each at its full voltage' }" :title="`${highest} V between tap ${series} and tap 0.`">One probe tip sleeved to its last 2 mm; rings off. A slip across two taps shorts the groups between.</Caution>
      <OpeningSteps of="opening" @photo="seePhoto" />
      <template v-if="!closed">
        <NextButton v-if="onward" but="probe" />
        <StageButton to="judge" :quiet="onward">Go to Judge</StageButton>
      </template>
    </template>
  </StageLayout>
</template>
