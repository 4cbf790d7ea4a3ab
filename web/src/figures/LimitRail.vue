<script setup lang="ts">
import { computed } from 'vue'

/** Where a value lies between its hard limits: the limits as stops, the default as a notch, the value as a wedge. */
const props = defineProps<{ low: number; high: number; usual: number; value: number | null }>()

const W = 220
const x = (v: number) => 6 + ((v - props.low) / (props.high - props.low)) * (W - 12)
const inside = computed(() => props.value !== null && props.value >= props.low && props.value <= props.high)
</script>

<template>
  <svg :viewBox="`0 0 ${W} 22`" class="rail" aria-hidden="true">
    <line :x1="6" :x2="W - 6" y1="15" y2="15" />
    <line v-for="stop in [6, W - 6]" :key="stop" :x1="stop" :x2="stop" y1="9" y2="21" class="stop" />
    <line :x1="x(usual)" :x2="x(usual)" y1="11" y2="19" class="usual" />
    <path v-if="inside" :d="`M${x(value!)} 14l-5-10h10z`" :class="{ moved: value !== usual }" />
  </svg>
</template>

<style scoped>
.rail {
  display: block;
  max-width: 220px;
  width: 100%;
}

line {
  stroke: var(--muted);
  stroke-width: 1;
}

.stop {
  stroke: var(--ink);
  stroke-width: 2.5;
}

.usual {
  stroke: var(--ink);
}

path {
  fill: var(--ink);
}

.moved {
  fill: var(--copper);
}
</style>
