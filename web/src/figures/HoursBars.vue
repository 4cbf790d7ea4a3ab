<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/** Hours of hands by step of the work, the most first, on one scale. */
const props = defineProps<{ steps: Schemas['StepNumbers'][] }>()
const most = computed(() => Math.max(0.1, ...props.steps.map((s) => s.hours)))
</script>

<template>
  <ol class="bars">
    <li v-for="s in steps" :key="s.step">
      <span>{{ s.name }}</span>
      <span class="bar" aria-hidden="true"><span :style="{ width: `${(100 * s.hours) / most}%` }"></span></span>
      <span class="mono">{{ s.hours }} h</span>
    </li>
  </ol>
</template>

<style scoped>
.bars {
  display: grid;
  gap: 4px;
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  align-items: center;
  display: grid;
  gap: 12px;
  grid-template-columns: 170px minmax(0, 1fr) 64px;
}

.bar {
  border-left: 1px solid var(--ink);
  display: block;
  height: 14px;
}

.bar > span {
  background: var(--petrol);
  display: block;
  height: 100%;
}

.mono {
  text-align: right;
}
</style>
