<script setup lang="ts">
import { useRouter } from 'vue-router'
import { client, type Schemas, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useShortcuts } from '@/composables/useShortcuts'
import { stagePath } from '@/router'

/** Move the job on to a stage and show it: the one thing to press when the stage's work is done. */
const props = defineProps<{ to: Schemas['NewStage']['stage']; quiet?: boolean; query?: Record<string, string> }>()

const job = useJob()
const router = useRouter()
const { act, busy, refusal } = useAct()

async function go() {
  const { id } = job.value.facts
  if (!job.value.assessment.frozen && job.value.assessment.stage !== props.to) {
    const view = await act(() => settled(client.POST('/api/jobs/{job_id}/stage', { params: { path: { job_id: id } }, body: { stage: props.to } })))
    if (!view) return
  }
  void router.push({ path: stagePath(id, props.to), query: props.query })
}

if (!props.quiet) useShortcuts([{ key: 'Enter', alt: true, does: 'go on to the next stage', run: () => void go() }])
</script>

<template>
  <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  <ElButton :type="quiet ? undefined : 'primary'" size="large" :loading="busy" class="go" @click="go">
    <slot /> <kbd v-if="!quiet" title="Alt and Enter">Alt ⏎</kbd>
  </ElButton>
</template>

<style scoped>
.go {
  justify-content: space-between;
  padding: 0 14px;
  width: 100%;
}

.go :deep(> span) {
  display: flex;
  gap: 8px;
  justify-content: space-between;
  width: 100%;
}

kbd {
  background: none;
  border-color: currentcolor;
  color: inherit;
  font-size: 12px;
  white-space: nowrap;
}
</style>
