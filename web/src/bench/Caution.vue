<script setup lang="ts">
/** A caution at the step where the hand is at risk: a hatched edge and a word, never colour alone. */
defineProps<{ title: string; grave?: boolean }>()
</script>

<template>
  <aside class="caution" :class="{ grave }">
    <div class="edge" aria-hidden="true"></div>
    <div>
      <strong>{{ title }}</strong>
      <div class="body"><slot /></div>
    </div>
  </aside>
</template>

<style scoped>
.caution {
  display: grid;
  gap: 12px;
  grid-template-columns: 9px 1fr;
}

.edge {
  background: repeating-linear-gradient(-45deg, var(--copper) 0 6px, transparent 6px 11px);
}

.grave .edge {
  background: repeating-linear-gradient(-45deg, var(--hazard) 0 6px, transparent 6px 11px);
}

.grave strong {
  color: var(--hazard);
}

.body {
  font-size: 15px;
}
</style>
