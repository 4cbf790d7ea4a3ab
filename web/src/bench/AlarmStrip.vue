<script setup lang="ts">
import { computed, ref } from 'vue'
import { RouterLink } from 'vue-router'
import { clock } from '@/composables/format'
import { type Alarm, useAlarms } from '@/composables/useAlarms'
import { stagePath } from '@/router'

/** What rings now: a look that is due, a finish. It stays, in every window, until somebody says that it is seen. */
const { due, see } = useAlarms()
const STAGE = { charge: 'level', rest: 'prove', cure: 'join', cool: 'join', capacity: 'measures', self_discharge: 'prove' } as const
const target = (a: Alarm) => stagePath(a.job, STAGE[a.kind])
const asked = ref('Notification' in window ? Notification.permission : 'denied')
const ask = async () => (asked.value = await Notification.requestPermission())
const shown = computed(() => due.value.slice(0, 3))
</script>

<template>
  <section v-if="due.length" class="alarms" aria-label="Alarms" aria-live="assertive">
    <p v-for="a in shown" :key="a.id"><RouterLink :to="target(a)">{{ a.words }}</RouterLink><span class="mono">{{ clock(new Date(a.at).toISOString()) }}</span><button type="button" :aria-label="`Seen: ${a.words}`" @click="see(a.id)">Seen</button></p>
    <p v-if="due.length > shown.length">and {{ due.length - shown.length }} more</p>
    <button v-if="asked === 'default'" type="button" class="linklike" @click="ask">ring outside this window too</button>
  </section>
</template>

<style scoped>
.alarms {
  align-items: center;
  background: repeating-linear-gradient(-45deg, var(--copper-tint) 0 8px, transparent 8px 16px), var(--sheet);
  border-top: 2px solid var(--copper);
  display: flex;
  flex-wrap: wrap;
  gap: 2px 26px;
  padding: 4px 18px;
}

p {
  align-items: center;
  display: flex;
  gap: 12px;
  margin: 0;
}

a {
  color: var(--ink);
  font-size: 18px;
  font-weight: 700;
}

p button {
  background: var(--sheet);
  border: 1px solid var(--petrol);
  color: var(--petrol);
  cursor: pointer;
  font: inherit;
  font-weight: 650;
  min-height: 44px;
  padding: 0 16px;
}
</style>
