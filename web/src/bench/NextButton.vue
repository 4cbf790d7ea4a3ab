<script setup lang="ts">
import { computed } from 'vue'
import { useJob } from '@/composables/useJob'
import { askWork } from './acts'
import StageButton from './StageButton.vue'

/** The next thing of this repair, as the program works it out from what was taken, done and read. `but`: not from the stage it is done in. */
const props = defineProps<{ but?: string; quiet?: boolean }>()
const job = useJob()
const next = computed(() => job.value.assessment.next ?? null)
const OPENS: Record<string, Record<string, string>> = { list: { of: 'work' }, join: { of: 'work' }, read_new: { order: 'groups' } }
const query = computed(() => OPENS[next.value?.code ?? ''])
</script>

<template>
  <template v-if="next && next.stage !== props.but">
    <ElButton v-if="next.code === 'work'" type="primary" size="large" @click="askWork()">{{ next.says }}</ElButton>
    <StageButton v-else :key="next.code" :to="next.stage" :query="query" :quiet="quiet">{{ next.says }}</StageButton>
  </template>
</template>
