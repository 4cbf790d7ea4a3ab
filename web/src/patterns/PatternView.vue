<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import PatternPage from './PatternPage.vue'

/** The page of the pattern that the address names; what is being written on one stays with that one. */
const route = useRoute()
const id = computed(() => Number(route.params.id))
</script>

<template>
  <PatternPage :id="id" :key="id" />
</template>
