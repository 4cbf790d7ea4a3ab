<script setup lang="ts">
import { RouterLink } from 'vue-router'

/** The frame of screens that belong to no job: the same three panes, with a ribbon that leads around the house. */
defineProps<{ title: string; under?: string }>()
</script>

<template>
  <div class="frame" :class="{ whole: !$slots.pack }">
    <header class="ribbon">
      <div class="name">
        <strong>{{ title }}</strong>
        <span class="muted">{{ under }}</span>
      </div>
      <nav class="places" aria-label="Places">
        <RouterLink to="/">Today</RouterLink>
        <RouterLink to="/take-in">Take in a pack</RouterLink>
        <RouterLink to="/cells" :class="{ 'router-link-exact-active': $route.name === 'cells' }">Cells</RouterLink>
        <RouterLink to="/patterns" :class="{ 'router-link-exact-active': String($route.path).startsWith('/patterns') }">Patterns</RouterLink>
        <RouterLink to="/instruments">Instruments</RouterLink>
        <RouterLink to="/returns">Returns</RouterLink>
        <RouterLink to="/policy">Policy</RouterLink>
        <RouterLink to="/bench">Bench settings</RouterLink>
      </nav>
    </header>
    <section v-if="$slots.pack" class="pack" aria-label="The pack"><slot name="pack" /></section>
    <slot />
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template: var(--ribbon) minmax(0, 1fr) / var(--pack-pane) minmax(0, 1fr) var(--judge-pane);
}

.whole {
  grid-template-columns: minmax(0, 1fr) var(--pack-pane);
}

.ribbon {
  border-bottom: 1px solid var(--ink);
  display: grid;
  grid-column: 1 / -1;
  grid-template-columns: var(--pack-pane) minmax(0, 1fr);
}

.name {
  align-content: center;
  border-right: 1px solid var(--ink);
  display: grid;
  padding: 0 18px;
}

.name span {
  font-size: 14px;
}

.places {
  align-items: stretch;
  display: flex;
  gap: clamp(12px, 1.9vw, 26px);
  padding: 0 clamp(12px, 2vw, 28px);
}

.places a {
  align-items: center;
  border-bottom: 4px solid transparent;
  border-top: 4px solid transparent;
  color: var(--petrol);
  display: flex;
  text-decoration: none;
}

.places a.router-link-exact-active {
  border-bottom-color: var(--copper);
  color: var(--ink);
  font-weight: 700;
}

.pack {
  background: var(--sheet);
  border-right: 1px solid var(--rule);
  min-height: 0;
  padding: 10px 8px 0 10px;
}
</style>
