<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <main class="nowhere">
    <h1>Nothing is at this address</h1>
    <p>There is no job or page at this address. <RouterLink to="/">Today lists the jobs there are.</RouterLink></p>
  </main>
</template>

<style scoped>
.nowhere {
  padding: 40px;
}
</style>
