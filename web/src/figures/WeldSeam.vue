<script setup lang="ts">
import { computed } from 'vue'
import { RouterLink } from 'vue-router'

/** The job's stages as a seam: welded as far as the job has come, a tack at each stage still ahead. */
const props = defineProps<{
  stages: { key: string; name: string; wants: string; to: string }[]
  reached: string
  shown: string
}>()

// One path for the whole run of weld marks: it is drawn again with every reading.
const BEADS = Array.from({ length: 60 }, (_, k) => `M${k * 7} 2.500q5 5.500 0 11`).join('')
const reachedAt = computed(() => props.stages.findIndex((s) => s.key === props.reached))
</script>

<template>
  <nav class="seam" aria-label="Stages of the job">
    <RouterLink
      v-for="(stage, i) in stages"
      :key="stage.key"
      :to="stage.to"
      class="stage"
      :class="{ welded: i < reachedAt, here: i === reachedAt, shown: stage.key === shown }"
      :aria-current="stage.key === shown ? 'step' : undefined"
    >
      <svg class="bead" height="16" width="100%" aria-hidden="true" preserveAspectRatio="none">
        <line x1="0" x2="100%" y1="8" y2="8" />
        <path v-if="i < reachedAt" :d="BEADS" />
        <line v-else x1="1" x2="1" y1="3" y2="13" class="tack" />
        <circle v-if="i === reachedAt" cx="7" cy="8" r="5.500" />
      </svg>
      <span class="name">{{ stage.name }}</span>
      <span v-if="stage.wants" class="wants">{{ stage.wants }}</span>
    </RouterLink>
  </nav>
</template>

<style scoped>
.seam {
  display: grid;
  grid-auto-columns: minmax(0, 1fr);
  grid-auto-flow: column;
  height: 100%;
}

.stage {
  color: var(--muted);
  display: grid;
  align-content: start;
  font-size: 15px;
  grid-template: auto auto auto / minmax(0, 1fr);
  line-height: 1.2;
  padding-top: 5px;
  overflow: hidden;
  text-decoration: none;
}

.bead {
  grid-column: 1 / -1;
  overflow: hidden;
}

.bead line {
  stroke: var(--rule);
  stroke-width: 2;
}

.bead .tack {
  stroke: var(--muted);
}

.bead path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2.2;
}

.bead circle {
  fill: var(--copper);
}

.welded .name,
.here .name {
  color: var(--ink);
}

.stage.shown .name {
  color: var(--ink);
  font-weight: 750;
  text-decoration: underline;
  text-decoration-color: var(--copper);
  text-decoration-thickness: 3px;
  text-underline-offset: 5px;
}

.stage:hover .name {
  color: var(--petrol);
}

.wants {
  color: var(--copper);
  font-family: var(--mono);
  font-size: 12.5px;
  line-height: 1;
  padding-top: 5px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  align-self: center;
}
</style>
