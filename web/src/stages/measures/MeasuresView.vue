<script setup lang="ts">
import { computed } from 'vue'
import Caution from '@/bench/Caution.vue'
import StageLayout from '@/bench/StageLayout.vue'
import { useJob } from '@/composables/useJob'
import CapacityFile from './CapacityFile.vue'
import PowerPath from './PowerPath.vue'
import SensorCheck from './SensorCheck.vue'
import SideBySide from './SideBySide.vue'
import UnderLoad from './UnderLoad.vue'
import WiggleTest from './WiggleTest.vue'

/** More than voltages: resistance, leak, sensors, capacity. */
const job = useJob()
const closed = computed(() => job.value.assessment.frozen || job.value.assessment.quarantine.length > 0 || !job.value.facts.safety?.length)
</script>

<template>
  <StageLayout>
    <div class="measures">
      <h1>Measures</h1>
      <SideBySide :key="job.facts.id" />
      <UnderLoad v-if="!closed" />
      <PowerPath :key="`path-${job.facts.id}`" />
      <SensorCheck />
      <WiggleTest />
      <CapacityFile />
    </div>
    <template #judgement>
      <p class="label">What each tells</p>
      <p>A step in current gives each group's resistance. At once under load it is the joint or the ohmic part; what grows in the minutes after is the cell.</p>
      <p>Two rest sets days apart give each group's leak, against its siblings only: what all share is temperature and meter.</p>
      <Caution title="A load makes heat">Set the current the tool draws, not more. Hand on the pack: warm is the end of the test, hot goes outside.</Caution>
    </template>
  </StageLayout>
</template>

<style scoped>
.measures {
  display: grid;
  gap: 22px;
  grid-template-columns: minmax(0, 1fr);
}
</style>
