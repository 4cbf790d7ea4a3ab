<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <main class="nowhere">
    <h1>Nothing is kept here</h1>
    <p>The address names no job and no view. <RouterLink to="/">Today lists the jobs there are.</RouterLink></p>
  </main>
</template>

<style scoped>
.nowhere {
  padding: 40px;
}
</style>
