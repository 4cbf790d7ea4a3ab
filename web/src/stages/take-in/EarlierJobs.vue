<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { client, settled } from '@/api/client'
import { useJob } from '@/composables/useJob'
import EarlierList from './EarlierList.vue'

/** The same pack here before, by its serial: what was done then, and whether it is still answered for. */
const job = useJob()
const id = computed(() => job.value.facts.id)
const { data } = useQuery({
  queryKey: computed(() => ['earlier', id.value, job.value.facts.intake.serial]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/earlier', { params: { path: { job_id: id.value } } })),
  enabled: computed(() => Boolean(job.value.facts.intake.serial)),
})
</script>

<template>
  <EarlierList v-if="data?.length" :jobs="data" />
</template>
