<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { vFrom } from '@/composables/origin'
import Caution from './Caution.vue'
import MoreSaid from './MoreSaid.vue'

/** What is believed so far, and what would settle it. */
defineProps<{ verdict: Schemas['Verdict']; set: Schemas['Assessed'] }>()
</script>

<template>
  <section class="beliefs" aria-live="polite">
    <p class="label">So far</p>
    <h2>{{ verdict.headline }}</h2>
    <p v-for="reason in verdict.reasons" :key="reason" v-from="{ what: verdict.headline, set, groups: 'all' }">{{ reason }}</p>
    <MoreSaid :more="verdict.more ?? []" />
  </section>
  <section v-if="verdict.settles" class="beliefs">
    <p class="label">Next reading</p>
    <p>{{ verdict.settles }}</p>
  </section>
  <Caution v-for="caution in verdict.cautions ?? []" :key="caution" title="Before anything else" grave>{{ caution }}</Caution>
</template>

<style scoped>
.beliefs {
  display: grid;
  gap: 7px;
}
</style>
