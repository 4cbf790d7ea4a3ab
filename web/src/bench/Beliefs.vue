<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { vFrom } from '@/composables/origin'

/** What is believed so far, and what would settle it. */
defineProps<{ verdict: Schemas['Verdict']; set: Schemas['Assessed'] }>()
</script>

<template>
  <section class="beliefs" aria-live="polite">
    <p class="label">So far</p>
    <h2>{{ verdict.headline }}</h2>
    <p v-for="reason in verdict.reasons" :key="reason" v-from="{ what: verdict.headline, set, groups: 'all' }">{{ reason }}</p>
  </section>
  <section v-if="verdict.settles" class="beliefs">
    <p class="label">Would settle it</p>
    <p>{{ verdict.settles }}</p>
  </section>
</template>

<style scoped>
.beliefs {
  display: grid;
  gap: 7px;
}
</style>
