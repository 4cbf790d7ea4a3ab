<script setup lang="ts">
/** What else there is to say, folded away: the one holding the probes reads three sentences, not nine. */
defineProps<{ more: string[] }>()
</script>

<template>
  <details v-if="more.length" class="more">
    <summary>{{ more.length === 1 ? 'One thing more' : `${more.length} things more` }}</summary>
    <p v-for="sentence in more" :key="sentence">{{ sentence }}</p>
  </details>
</template>

<style scoped>
.more {
  display: grid;
  gap: 7px;
}

summary {
  align-items: center;
  color: var(--petrol);
  cursor: pointer;
  display: flex;
  font-weight: 650;
  min-height: 44px;
}

p + p {
  margin-top: 7px;
}
</style>
