<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { RouterLink } from 'vue-router'
import { useQuery } from '@tanstack/vue-query'
import { client, settled } from '@/api/client'
import { queryClient } from '@/api/queries'
import { useAct } from '@/composables/useAct'
import { useJob } from '@/composables/useJob'
import { useSettings } from '@/composables/useSettings'
import TextField from '@/forms/TextField.vue'
import ChangeLines from '@/patterns/ChangeLines.vue'

/** What this pack taught: what its pattern does not say yet, taken over line by line; with no pattern, one begins here. */
const job = useJob()
const settings = useSettings()
const { act, busy, refusal } = useAct()
const path = computed(() => ({ path: { job_id: job.value.facts.id } }))
const { data: lesson } = useQuery({
  queryKey: computed(() => ['lesson', job.value.facts.id, job.value.facts.last_id]),
  queryFn: () => settled(client.GET('/api/jobs/{job_id}/lesson', { params: path.value })),
  placeholderData: (before) => before,
})
// The first three digits say the cause.
const KEYS = ['4', '5', '6', '7', '8', '9']
const chosen = ref<string[]>([])
const title = ref('')
const by = ref(settings.value.technician)
let before: string[] = []
// What counts by itself is chosen; what was written down or read is for the hand to say whether it is of this pack alone.
watch(lesson, (now) => {
  const lines = now?.lines.map((l) => l.line) ?? []
  const fresh = now?.lines.filter((l) => !before.includes(l.line) && (!['quirks', 'normals'].includes(l.section) || l.what === 'counted')).map((l) => l.line) ?? []
  chosen.value = [...chosen.value.filter((l) => lines.includes(l)), ...fresh]
  before = lines
  title.value ||= now?.title ?? ''
}, { immediate: true })
async function take() {
  if (!(await act(() => settled(client.POST('/api/jobs/{job_id}/lesson', { params: path.value, body: { lines: chosen.value, by: by.value, title: lesson.value?.pattern ? '' : title.value } }))))) return
  void queryClient.invalidateQueries({ queryKey: ['patterns'] })
}
</script>

<template>
  <section v-if="lesson" class="lesson" aria-label="What this pack taught">
    <h2>What this pack taught</h2>
    <p v-if="lesson.pattern">Pattern: <RouterLink :to="`/patterns/${lesson.pattern}`">{{ lesson.title }}</RouterLink>, revision {{ lesson.revision }}.<template v-if="lesson.taken.length"> {{ lesson.taken.length }} {{ lesson.taken.length === 1 ? 'line' : 'lines' }} of this job {{ lesson.taken.length === 1 ? 'is' : 'are' }} in it.</template></p>
    <p v-else class="muted">Nothing is kept of this model yet. A pattern begun here offers itself when the next one comes.</p>
    <p v-for="c in lesson.counts" :key="c" class="muted">{{ c }}.</p>
    <ChangeLines v-if="lesson.lines.length" v-model="chosen" :lines="lesson.lines" :keys="KEYS" label="What could go into the pattern" />
    <p v-else-if="lesson.pattern" class="muted">It says all of it already.</p>
    <form v-if="lesson.lines.length || !lesson.pattern" class="take" @submit.prevent="take">
      <TextField v-if="!lesson.pattern" v-model="title" label="Title of the pattern, free of makes" maxlength="80" />
      <TextField v-model="by" label="Who takes it over" maxlength="60" :error="refusal?.on('by')" />
      <ElButton type="primary" native-type="submit" size="large" :loading="busy" :disabled="Boolean(lesson.pattern) && !chosen.length">{{ lesson.pattern ? `Take ${chosen.length} of ${lesson.lines.length} over` : 'Begin a pattern with it' }}</ElButton>
    </form>
    <p v-if="refusal && !refusal.on('by')" class="error" role="alert">{{ refusal.message }}</p>
    <p v-if="lesson.lines.length" class="muted small">Names, telephone and serial of the customer are taken out. Read the lines before you take them.</p>
  </section>
</template>

<style scoped>
.lesson {
  border-left: 4px solid var(--copper);
  display: grid;
  gap: 8px;
  padding-left: 16px;
}

.take {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
}

.small {
  font-size: 14px;
}
</style>
