<script setup lang="ts">
import { computed } from 'vue'
import { RouterView, useRouter } from 'vue-router'
import AlarmStrip from './bench/AlarmStrip.vue'
import ShortcutSheet from './bench/ShortcutSheet.vue'
import WaitingRail from './bench/WaitingRail.vue'
import { goneSince, useChanges } from './composables/useChanges'
import { clock } from './composables/format'
import { useNow } from './composables/useNow'
import { sheetOpen, useShortcuts } from './composables/useShortcuts'

const router = useRouter()
// A blink of the line is nothing to tell.
const now = useNow()
const gone = computed(() => goneSince.value !== null && now.value - goneSince.value > 1000)
useChanges()
useShortcuts([
  { key: '?', does: 'list the shortcuts of this screen', run: () => (sheetOpen.value = true), always: true },
  { key: '0', alt: true, does: 'go to Today', run: () => void router.push('/') },
  { key: 'n', alt: true, does: 'take in a pack', run: () => void router.push('/take-in') },
])
</script>

<template>
  <div class="app" :class="{ gone }">
    <p v-if="gone" class="away" role="alert">Saldatura does not answer since {{ clock(new Date(goneSince!).toISOString()) }}. Start it again; what you typed stays; what is shown may be old.</p>
    <RouterView class="view" />
    <AlarmStrip class="ring" />
    <WaitingRail class="rail" />
    <ShortcutSheet />
  </div>
</template>

<style scoped>
.app {
  display: grid;
  grid-template: 'away' auto 'view' minmax(0, 1fr) 'ring' auto 'rail' var(--rail) / minmax(0, 1fr);
  height: 100%;
}

.away {
  background: repeating-linear-gradient(-45deg, var(--copper-tint) 0 8px, transparent 8px 16px), var(--sheet);
  border-bottom: 2px solid var(--hazard);
  grid-area: away;
  color: var(--hazard);
  font-weight: 600;
  padding: 8px 18px;
}

/* What was there when it last answered is not known to be there now. */
.gone > :is(.view, .rail) {
  opacity: 0.55;
}

.view {
  grid-area: view;
  min-height: 0;
}

.ring {
  grid-area: ring;
}

.rail {
  grid-area: rail;
}
</style>
