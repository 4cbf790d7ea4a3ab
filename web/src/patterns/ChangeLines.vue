<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { useShortcuts } from '@/composables/useShortcuts'

/** Lines in which two sheets differ, each to be taken or left. */
const chosen = defineModel<string[]>({ required: true })
const props = defineProps<{ lines: Schemas['Change'][]; label: string; keys?: string[] }>()
const WHAT: Record<Schemas['Change']['what'], string> = { added: 'new', changed: 'changed', removed: 'gone', counted: 'counts', moved: 'order' }
const empty = (value: unknown) => value === null || value === undefined || value === '' || (Array.isArray(value) && !value.length)
const what = (c: Schemas['Change']) => (c.what === 'changed' && empty(c.ours) ? WHAT.added : WHAT[c.what])
const turn = (line: string) => (chosen.value = chosen.value.includes(line) ? chosen.value.filter((l) => l !== line) : [...chosen.value, line])
useShortcuts(() => (props.keys ?? []).slice(0, props.lines.length).map((key, i) => ({ key, does: `take or leave: ${props.lines[i]!.says.slice(0, 40)}`, run: () => turn(props.lines[i]!.line) })))
</script>

<template>
  <ul class="lines" :aria-label="label">
    <li v-for="(c, i) in lines" :key="c.line">
      <button type="button" class="chip" :aria-pressed="chosen.includes(c.line)" :aria-label="`take line ${i + 1}: ${c.says}`" @click="turn(c.line)">{{ chosen.includes(c.line) ? 'take' : 'leave' }}<kbd v-if="keys?.[i]">{{ keys[i] }}</kbd></button>
      <span class="what">{{ what(c) }}</span>
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
  grid-template-columns: 112px 76px minmax(0, 1fr);
  padding-bottom: 6px;
}

.what {
  color: var(--muted);
  font-size: 14px;
}

@media (max-width: 700px) {
  li {
    grid-template-columns: 112px minmax(0, 1fr);
  }

  .what {
    display: none;
  }
}
</style>
