<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** Lines in which two sheets differ, each to be taken or left. */
const chosen = defineModel<string[]>({ required: true })
defineProps<{ lines: Schemas['Change'][]; label: string }>()
const WHAT: Record<Schemas['Change']['what'], string> = { added: 'new', changed: 'changed', removed: 'gone', counted: 'counts', moved: 'order' }
const turn = (line: string) => (chosen.value = chosen.value.includes(line) ? chosen.value.filter((l) => l !== line) : [...chosen.value, line])
</script>

<template>
  <ul class="lines" :aria-label="label">
    <li v-for="(c, i) in lines" :key="c.line">
      <button type="button" class="chip" :aria-pressed="chosen.includes(c.line)" :aria-label="`take line ${i + 1}: ${c.says}`" @click="turn(c.line)">{{ chosen.includes(c.line) ? 'take' : 'leave' }}</button>
      <span class="what">{{ WHAT[c.what] }}</span>
      <span>{{ c.says }}</span>
    </li>
  </ul>
</template>

<style scoped>
.lines {
  display: grid;
  gap: 6px;
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: center;
  border-bottom: 1px solid var(--rule);
  display: grid;
  gap: 12px;
  grid-template-columns: 96px 76px minmax(0, 1fr);
  padding-bottom: 6px;
}

.what {
  color: var(--muted);
  font-size: 14px;
}

@media (max-width: 700px) {
  li {
    grid-template-columns: 90px minmax(0, 1fr);
  }

  .what {
    display: none;
  }
}
</style>
