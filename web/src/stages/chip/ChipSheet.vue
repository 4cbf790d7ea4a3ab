<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** Every word as it came, and what it says in units; what the standard gives no meaning stays raw. */
defineProps<{ words: Schemas['SheetLine'][]; raw: Record<string, string> }>()
</script>

<template>
  <details class="sheet">
    <summary>Every word as it came: {{ words.length }}</summary>
    <table>
      <thead><tr><th>register</th><th>what</th><th>raw</th><th>says</th></tr></thead>
      <tbody>
        <tr v-for="w in words" :key="w.number" :class="{ odd: w.odd, none: w.raw === null }">
          <td class="mono">{{ w.number }}</td>
          <td>{{ w.name }}</td>
          <td class="mono raw">{{ w.raw ?? 'no answer' }}</td>
          <td>{{ w.odd ? 'cannot be' : w.says }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="Object.keys(raw).length" class="muted">Words beyond the standard are the chip maker’s own: kept raw, and never guessed at.</p>
  </details>
</template>

<style scoped>
summary {
  color: var(--petrol);
  cursor: pointer;
  font-weight: 650;
  padding: 10px 0;
}

table {
  border-collapse: collapse;
  width: 100%;
}

th {
  font-weight: 400;
  text-align: left;
}

td {
  border-top: 1px solid var(--rule-soft);
  padding: 4px 14px 4px 0;
}

.raw {
  overflow-wrap: anywhere;
}

.odd td:last-child {
  color: var(--copper);
  font-weight: 650;
}

.none {
  color: var(--muted);
}
</style>
