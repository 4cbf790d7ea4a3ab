<script setup lang="ts">
import { useTemplateRef } from 'vue'
import FieldRow from '@/bench/FieldRow.vue'

/** A line of words under its label; what the API says of it stands beside it until the words are changed. */
defineOptions({ inheritAttrs: false })
const text = defineModel<string | undefined>({ required: true })
defineProps<{ label: string; error?: string | null }>()
const input = useTemplateRef<{ focus: () => void }>('input')
defineExpose({ focus: () => input.value?.focus() })
</script>

<template>
  <FieldRow :label="label" :error="error" :class="$attrs.class">
    <template #default="{ id }"><ElInput :id="id" ref="input" v-model="text" v-bind="{ ...$attrs, class: undefined }" /></template>
  </FieldRow>
</template>
