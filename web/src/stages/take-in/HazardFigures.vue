<script setup lang="ts">
import type { Schemas } from '@/api/client'
import Caution from '@/bench/Caution.vue'
import { vFrom } from '@/composables/origin'

/** What the pack can do to a hand or a tool. */
defineProps<{ hazard: Schemas['Hazard'] | null }>()
const words = 'the build as taken in: chemistry, groups, cells beside each other, rated capacity'
const kilo = (amps: number) => (amps >= 1000 ? `${(amps / 1000).toFixed(1)} kA` : `${Math.round(amps / 10) * 10} A`)
</script>

<template>
  <section class="hazard" aria-live="polite">
    <p class="label">Energy and short circuit</p>
    <template v-if="hazard">
      <dl>
        <div v-from="{ what: 'Energy', words }"><dt>energy</dt><dd class="figure">{{ Math.round(hazard.energy_wh) }} Wh</dd></div>
        <div v-from="{ what: 'Highest voltage', words }"><dt>highest voltage</dt><dd class="figure">{{ hazard.highest_v.toFixed(1) }} V</dd></div>
        <div v-from="{ what: 'Into a short', words }"><dt>into a short</dt><dd class="figure">{{ kilo(hazard.short_circuit_low_a) }} – {{ kilo(hazard.short_circuit_high_a) }}</dd></div>
      </dl>
      <Caution v-if="hazard.refused" title="Out of scope" grave>{{ hazard.refused }}</Caution>
      <Caution v-else title="Rings off">{{ hazard.caution }}</Caution>
    </template>
    <p v-else class="muted">Chemistry, series and capacity give its energy, highest voltage and short-circuit current.</p>
  </section>
</template>

<style scoped>
.hazard {
  display: grid;
  gap: 14px;
}

dl {
  display: grid;
  gap: 8px;
  margin: 0;
}

dt {
  color: var(--muted);
  font-size: 14px;
}

dd {
  margin: 0;
}

.figure {
  font-size: 23px;
}
</style>
