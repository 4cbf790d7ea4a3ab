<script setup lang="ts">
import { computed } from 'vue'
import { useTermsQuery } from '@/api/queries'
import { dark, useSettings } from '@/composables/useSettings'
import HandsTaught from './HandsTaught.vue'
import MeterForm from './MeterForm.vue'
import OpenFrame from './OpenFrame.vue'
import ShopCard from './ShopCard.vue'
import TextField from '@/forms/TextField.vue'

const settings = useSettings()
const { data: terms } = useTermsQuery()
const sources = computed(() => Object.values(terms.value?.curve_sources ?? {}))
</script>

<template>
  <OpenFrame title="Bench settings" under="This bench, this browser">
    <main class="settings">
      <h1>Bench settings</h1>
      <ShopCard />
      <MeterForm />
      <HandsTaught />
      <section class="part">
        <h2>Display</h2>
        <label class="switch"><ElSwitch v-model="dark" aria-label="Dark scheme" /> Dark scheme for late work (else as the system)</label>
        <label class="switch"><ElSwitch v-model="settings.fahrenheit" aria-label="Temperatures in °F" /> Temperatures in °F</label>
        <TextField v-model="settings.technician" label="Who works here" maxlength="60" />
      </section>
    </main>
    <aside class="side">
      <h2>Where the curves come from</h2>
      <ul><li v-for="s in sources" :key="s">{{ s }}</li></ul>
      <p class="muted">Used where a rest voltage is turned into charge, and in every forecast.</p>
    </aside>
  </OpenFrame>
</template>

<style scoped>
.settings {
  position: relative;
  display: grid;
  gap: 26px;
  grid-auto-rows: max-content;
  min-height: 0;
  overflow: auto;
  padding: 24px 28px;
}

.part {
  display: grid;
  gap: 10px;
  max-width: 640px;
}

.switch {
  align-items: center;
  display: flex;
  gap: 12px;
  min-height: 44px;
}

.side {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  display: grid;
  gap: 10px;
  grid-auto-rows: max-content;
  min-height: 0;
  overflow: auto;
  padding: 24px 20px;
}

ul {
  margin: 0;
  padding-left: 18px;
}
</style>
