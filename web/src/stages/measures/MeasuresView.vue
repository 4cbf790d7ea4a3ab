<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import Caution from '@/bench/Caution.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'
import CapacityFile from './CapacityFile.vue'
import GroupResistances from './GroupResistances.vue'
import KeptMeasures from './KeptMeasures.vue'
import PowerPath from './PowerPath.vue'
import SensorCheck from './SensorCheck.vue'
import SideBySide from './SideBySide.vue'
import UnderLoad from './UnderLoad.vue'
import WiggleTest from './WiggleTest.vue'

/** More than voltages, one at a time: resistance, leak, sensors, the power path, capacity. */
const KINDS = { sets: 'two sets', load: 'under load', resistance: 'resistance', path: 'power path', sensor: 'sensor', wiggle: 'wiggle', capacity: 'capacity' }
type Kind = keyof typeof KINDS
const job = useJob()
const route = useRoute()
const router = useRouter()
const kind = computed<Kind>(() => (String(route.query.of) in KINDS ? (route.query.of as Kind) : 'sets'))
const TELLS: Record<Kind, string> = {
  sets: 'Two rest sets days apart give each group’s leak, against its siblings only: what all share is temperature and meter.',
  load: 'A step in current gives each group’s resistance: its volts at rest less those under load, over the current.',
  resistance: 'At once under load it is the joint or the ohmic part; what grows in the seconds after is the cell. A meter at 1 kHz sees the first alone.',
  path: 'The fault lies between the last node that has the string’s voltage and the first that has not. The next touch is the one that halves what is left, for the minutes it takes.',
  sensor: 'A pack that rested here is as warm as the air. A board that reads deep cold or great heat blocks the charge.',
  wiggle: 'A contact that comes and goes shows only while it is moved: one part at a time.',
  capacity: 'A discharge at the tool’s current down to its cut-off: what it gives against what it is rated for.',
}
useShortcuts(Object.entries(KINDS).map(([key, words], i) => ({ key: String(i + 1), does: words, run: () => void router.push({ query: { of: key } }) })))
const closed = computed(() => job.value.assessment.closed !== null)
</script>

<template>
  <StageLayout>
    <div class="measures">
      <h1>Measures</h1>
      <nav class="kinds" aria-label="What is measured"><RouterLink v-for="(words, key) in KINDS" :key="key" :to="{ query: { of: key } }" :aria-current="key === kind ? 'page' : undefined">{{ words }}</RouterLink></nav>
      <SideBySide v-if="kind === 'sets'" :key="job.facts.id" />
      <template v-else-if="closed"><p class="muted">{{ job.assessment.closed }}</p></template>
      <UnderLoad v-else-if="kind === 'load'" />
      <GroupResistances v-else-if="kind === 'resistance'" :key="job.facts.id" />
      <PowerPath v-else-if="kind === 'path'" :key="job.facts.id" />
      <SensorCheck v-else-if="kind === 'sensor'" />
      <WiggleTest v-else-if="kind === 'wiggle'" />
      <CapacityFile v-else />
      <KeptMeasures />
    </div>
    <template #judgement>
      <p class="label">What each shows</p>
      <p>{{ TELLS[kind] }}</p>
      <Caution v-if="kind === 'path'" title="Live nodes on a bare board">A slip of the tip across a switch turns it on for good. One tip sleeved to its last 2 mm, one hand on the probe.</Caution>
      <Caution v-else-if="kind === 'wiggle'" title="Nothing on the pack while it is moved">No charger and no load: a contact that opens under current burns.</Caution>
      <Caution v-else-if="kind === 'load' || kind === 'resistance' || kind === 'capacity'" title="A load makes heat">Set the current the tool draws, not more. Hand on the pack: warm is the end of the test, hot goes outside.</Caution>
    </template>
  </StageLayout>
</template>

<style scoped>
.kinds {
  border-bottom: 1px solid var(--ink);
  display: flex;
  flex-wrap: wrap;
  font-size: 15px;
  gap: 0 12px;
}

.kinds a {
  align-items: center;
  border-bottom: 3px solid transparent;
  color: var(--petrol);
  display: flex;
  font-weight: 650;
  min-height: 44px;
  text-decoration: none;
}

.kinds a[aria-current] {
  border-bottom-color: var(--copper);
  color: var(--ink);
}

.measures {
  display: grid;
  gap: 22px;
  grid-template-columns: minmax(0, 1fr);
}
</style>
