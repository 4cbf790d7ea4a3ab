<script setup lang="ts">
import { RouterView, useRouter } from 'vue-router'
import ShortcutSheet from './bench/ShortcutSheet.vue'
import WaitingRail from './bench/WaitingRail.vue'
import { useChanges } from './composables/useChanges'
import { sheetOpen, useShortcuts } from './composables/useShortcuts'

const router = useRouter()
useChanges()
useShortcuts([
  { key: '?', does: 'list the shortcuts of this screen', run: () => (sheetOpen.value = true), always: true },
  { key: '0', alt: true, does: 'go to Today', run: () => void router.push('/') },
  { key: 'n', alt: true, does: 'take in a pack', run: () => void router.push('/take-in') },
])
</script>

<template>
  <div class="app">
    <RouterView class="view" />
    <WaitingRail class="rail" />
    <ShortcutSheet />
  </div>
</template>

<style scoped>
.app {
  display: grid;
  grid-template-rows: minmax(0, 1fr) var(--rail);
  height: 100%;
}

.view {
  min-height: 0;
}
</style>
