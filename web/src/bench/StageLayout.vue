<script setup lang="ts">
/** A stage's work in the middle, and on the right what the program believes, wants next, and warns of. */
</script>

<template>
  <main class="work"><slot /></main>
  <aside class="judgement" aria-label="What the program believes"><slot name="judgement" /></aside>
</template>

<style scoped>
.work {
  min-height: 0;
  min-width: 0;
  overflow: auto;
  padding: 20px 28px 24px;
  /* What is hidden for the eye is placed from here, not from the page. */
  position: relative;
}

.judgement {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  display: flex;
  flex-direction: column;
  gap: 16px;
  min-height: 0;
  overflow: auto;
  padding: 20px 20px 20px;
}

@media (max-width: 1100px) {
  .work {
    padding: 16px 18px;
  }

  .judgement {
    padding: 16px 14px;
  }
}
</style>
