<script setup lang="ts">
/** How far a live value has settled: an open jaw that closes, and a solid dot once it holds. */
defineProps<{ share: number }>()

const ROUND = 2 * Math.PI * 13
</script>

<template>
  <svg class="ring" viewBox="0 0 34 34" width="34" height="34" role="img" :aria-label="share >= 1 ? 'steady' : 'settling'">
    <circle cx="17" cy="17" r="13" class="ground" />
    <circle cx="17" cy="17" r="13" class="done" :stroke-dasharray="`${ROUND * share} ${ROUND}`" transform="rotate(-90 17 17)" />
    <circle v-if="share >= 1" cx="17" cy="17" r="6" class="dot" />
  </svg>
</template>

<style scoped>
.ring {
  flex: none;
}

.ground,
.done {
  fill: none;
  stroke: var(--rule);
  stroke-width: 5;
}

.done {
  stroke: var(--copper);
}

.dot {
  fill: var(--copper);
}
</style>
