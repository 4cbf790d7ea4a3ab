<script setup lang="ts">
import { computed } from 'vue'
import { sheetOpen, shortcuts } from '@/composables/useShortcuts'

const list = computed(() => (sheetOpen.value ? shortcuts() : []))
const keyName = (key: string) => ({ ' ': 'Space', Backspace: 'Backspace', Enter: 'Enter' })[key] ?? key
</script>

<template>
  <ElDialog v-model="sheetOpen" title="Shortcuts of this screen" width="520px" append-to-body>
    <dl class="keys">
      <template v-for="s in list" :key="`${s.alt}${s.key}${s.does}`">
        <dt><kbd v-if="s.alt">Alt</kbd> <kbd>{{ keyName(s.key) }}</kbd></dt>
        <dd>{{ s.does }}</dd>
      </template>
    </dl>
  </ElDialog>
</template>

<style scoped>
.keys {
  align-items: baseline;
  display: grid;
  gap: 8px 18px;
  grid-template-columns: auto 1fr;
  margin: 0;
}

dd {
  margin: 0;
}
</style>
