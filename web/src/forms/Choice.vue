<script setup lang="ts" generic="K extends string">
/** One or some of a few, each a button that says what is chosen; they wrap onto as many lines as they need. */
defineProps<{ label: string; lead?: string; options: Partial<Record<K, string>>; chosen: (key: K) => boolean | undefined; disabled?: boolean }>()
const emit = defineEmits<{ choose: [K] }>()
const each = (options: Partial<Record<K, string>>) => Object.entries(options) as [K, string][]
</script>

<template>
  <div class="chips" role="group" :aria-label="label"><span v-if="lead">{{ lead }}</span><button v-for="[key, words] in each(options)" :key="key" type="button" class="chip" :disabled="disabled" :aria-pressed="chosen(key) ?? false" @click="emit('choose', key)">{{ words }}</button><slot /></div>
</template>
