<script setup lang="ts">
import type { Schemas } from '@/api/client'
import Choice from '@/forms/Choice.vue'

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
  <Choice label="Which board" :options="MAKES" :chosen="(key) => board?.make === key" @choose="(key) => (board = { make: key, lacks: key === 'own' ? [] : (board?.lacks ?? []) })" />
  <Choice v-if="board?.make === 'other'" label="What it lacks" :options="LACKS" :chosen="(key) => board?.lacks?.includes(key)" @choose="(key) => toggle(key)" />
</template>

<style scoped>
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
