<script setup lang="ts">
import { computed, ref } from 'vue'
import { useDebounce } from '@vueuse/core'
import TextField from '@/forms/TextField.vue'
import { usePatternsQuery } from './usePatterns'

/** Which other pattern one is held against. */
const props = defineProps<{ id: number }>()
const emit = defineEmits<{ chosen: [id: number] }>()
const search = ref('')
const { data } = usePatternsQuery(useDebounce(search, 120), false)
const others = computed(() => (search.value.trim() ? (data.value?.patterns ?? []).filter((p) => p.id !== props.id).slice(0, 5) : []))
</script>

<template>
  <section>
    <TextField v-model="search" label="Compare it with" maxlength="80" />
    <button v-for="p in others" :key="p.id" type="button" class="linklike first" @click="emit('chosen', p.id)">{{ p.title }}, revision {{ p.revision }}</button>
  </section>
</template>

<style scoped>
.first {
  display: block;
  margin-left: 0;
  text-align: left;
}
</style>
