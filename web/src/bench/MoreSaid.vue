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

p + p {
  margin-top: 7px;
}
</style>
