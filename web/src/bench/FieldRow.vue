<script setup lang="ts">
import { ref, useId, watch } from 'vue'

/** A labelled field with the one line that says what is wrong with it. */
const props = defineProps<{ label: string; error?: string | null; group?: boolean }>()
const id = useId()
// What was said of a value is not true of the next one.
const edited = ref(false)
watch(() => props.error, () => (edited.value = false))
</script>

<template>
  <div class="row" :role="group ? 'group' : undefined" :aria-labelledby="group ? `${id}-label` : undefined" @input="edited = true">
    <span v-if="group" :id="`${id}-label`" class="label">{{ label }}</span>
    <label v-else :for="id" class="label">{{ label }}</label>
    <slot :id="id" />
    <p v-if="error && !edited" class="error" role="alert">{{ label }}: {{ error }}</p>
  </div>
</template>

<style scoped>
.row {
  align-content: start;
  display: grid;
  gap: 4px;
}
</style>
