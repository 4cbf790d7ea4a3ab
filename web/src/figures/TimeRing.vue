<script setup lang="ts">
import { computed } from 'vue'

/** How much of a wait is over, 0–1; full and copper when it is done. */
const props = defineProps<{ done: number; size?: number }>()
const RADIUS = 9
const length = 2 * Math.PI * RADIUS
const share = computed(() => Math.min(Math.max(props.done, 0), 1))
</script>

<template>
  <svg :width="size ?? 26" :height="size ?? 26" viewBox="0 0 26 26" aria-hidden="true">
    <circle cx="13" cy="13" :r="RADIUS" class="ground" />
    <circle cx="13" cy="13" :r="RADIUS" class="over" :class="{ full: share >= 1 }" :stroke-dasharray="`${share * length} ${length}`" transform="rotate(-90 13 13)" />
  </svg>
</template>

<style scoped>
circle {
  fill: none;
  stroke-width: 5;
}

.ground {
  stroke: var(--rule);
}

.over {
  stroke: var(--petrol);
}

.over.full {
  stroke: var(--copper);
}
</style>
