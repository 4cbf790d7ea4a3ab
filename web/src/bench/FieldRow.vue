<script setup lang="ts">
import { useId } from 'vue'

/** A labelled field with the one line that says what is wrong with it. */
defineProps<{ label: string; error?: string; group?: boolean }>()
const id = useId()
</script>

<template>
  <div class="row" :role="group ? 'group' : undefined" :aria-labelledby="group ? `${id}-label` : undefined">
    <span v-if="group" :id="`${id}-label`" class="label">{{ label }}</span>
    <label v-else :for="id" class="label">{{ label }}</label>
    <slot :id="id" />
    <p v-if="error" class="error" role="alert">{{ label }}: {{ error }}</p>
  </div>
</template>

<style scoped>
.row {
  align-content: start;
  display: grid;
  gap: 4px;
}
</style>
