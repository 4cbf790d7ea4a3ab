<script setup lang="ts">
import { useRouter } from 'vue-router'
import { useJob } from '@/composables/useJob'
import { stagePath } from '@/router'

// The bare address of a job leads to where it stands.
const job = useJob()
void useRouter().replace(stagePath(job.value.facts.id, job.value.assessment.quarantine.length ? 'take_in' : job.value.assessment.stage))
</script>

<template>
  <main></main>
</template>
