<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { RouterLink, useRoute, useRouter } from 'vue-router'
import { useQuery } from '@tanstack/vue-query'
import { client, Refusal, settled } from '@/api/client'
import OpenFrame from '@/bench/OpenFrame.vue'
import { useAct } from '@/composables/useAct'
import { useSettings } from '@/composables/useSettings'
import TextField from '@/forms/TextField.vue'
import ChangeLines from './ChangeLines.vue'
import { keepPattern, usePatternQuery } from './usePatterns'

/** Two patterns side by side, line by line; where they are one, the lines to keep are taken and the other is put away. */
const route = useRoute()
const router = useRouter()
const settings = useSettings()
const id = computed(() => Number(route.params.id))
const other = computed(() => Number(route.params.other))
const { data: ours } = usePatternQuery(id)
const { data: theirs } = usePatternQuery(other)
const { data: lines, error } = useQuery({
  queryKey: computed(() => ['pattern-differs', id.value, other.value, ours.value?.last_id, theirs.value?.last_id]),
  queryFn: () => settled(client.GET('/api/patterns/{number}/differs/{other}', { params: { path: { number: id.value, other: other.value } } })),
})
const chosen = ref<string[]>([])
// What the other adds is worth taking; what it says otherwise is for the hand to choose.
watch(lines, (now) => (chosen.value = (now ?? []).filter((l) => l.what === 'added').map((l) => l.line)), { immediate: true })
const by = ref(settings.value.technician)
const { act, busy, refusal } = useAct()
async function merge() {
  const made = await act(() => settled(client.POST('/api/patterns/{number}/merge', { params: { path: { number: id.value } }, body: { other: other.value, lines: chosen.value, by: by.value, why: `merged with ${theirs.value?.sheet.title}` } })))
  if (!made) return
  keepPattern(made)
  void router.push(`/patterns/${id.value}`)
}
</script>

<template>
  <OpenFrame title="Two patterns" :under="ours && theirs ? `${ours.sheet.title} and ${theirs.sheet.title}` : ''">
    <main class="compare">
      <p v-if="error" class="error" role="alert">{{ error instanceof Refusal ? error.message : 'They cannot be compared.' }}</p>
      <template v-if="ours && theirs && lines">
        <h1>{{ lines.length ? `${lines.length} ${lines.length === 1 ? 'line differs' : 'lines differ'}` : 'They say the same' }}</h1>
        <p>What <RouterLink :to="`/patterns/${other}`">{{ theirs.sheet.title }}</RouterLink> says otherwise than <RouterLink :to="`/patterns/${id}`">{{ ours.sheet.title }}</RouterLink>.</p>
        <ChangeLines v-model="chosen" :lines="lines" label="What differs" />
      </template>
    </main>
    <aside class="side">
      <h2>Are they one</h2>
      <p class="muted">Then the lines marked “take” go into {{ ours?.sheet.title }}, its own stay otherwise, and {{ theirs?.sheet.title }} is put away and points here. Its jobs keep what they were begun with. Boards of two revisions of one pack stand as two boards on one sheet.</p>
      <TextField v-model="by" label="Who merges them" maxlength="60" :error="refusal?.on('by')" />
      <p v-if="refusal && !refusal.on('by')" class="error" role="alert">{{ refusal.message }}</p>
      <ElButton type="primary" size="large" :loading="busy" :disabled="!lines || id === other" @click="merge">Make them one</ElButton>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.compare {
  align-content: start;
  display: grid;
  gap: 14px;
  overflow: auto;
  padding: 24px 28px;
}

.side {
  align-content: start;
  border-left: 1px solid var(--ink);
  display: grid;
  gap: 14px;
  overflow: auto;
  padding: 24px 18px;
}
</style>
