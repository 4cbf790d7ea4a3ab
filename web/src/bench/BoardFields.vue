<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** Which board is put in, and what one of another make lacks: it stands on the papers. */
const board = defineModel<Schemas['Board'] | null>({ required: true })
const MAKES = { own: "the pack's own kind", other: 'of another make' } as const
const LACKS = { temperature: 'no temperature cut-off', fuse: 'no fuse', group_limits: 'no limits for each group', balancing: 'no balancing' } as const
type Lack = keyof typeof LACKS
function toggle(lack: Lack) {
  const held = board.value?.lacks ?? []
  board.value = { make: 'other', lacks: held.includes(lack) ? held.filter((l) => l !== lack) : [...held, lack] }
}
</script>

<template>
  <div class="chips" role="group" aria-label="Which board"><button v-for="(words, key) in MAKES" :key="key" type="button" class="chip" :aria-pressed="board?.make === key" @click="board = { make: key, lacks: key === 'own' ? [] : (board?.lacks ?? []) }">{{ words }}</button></div>
  <div v-if="board?.make === 'other'" class="chips" role="group" aria-label="What it lacks"><button v-for="(words, key) in LACKS" :key="key" type="button" class="chip" :aria-pressed="board.lacks?.includes(key)" @click="toggle(key)">{{ words }}</button></div>
</template>

<style scoped>
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
