<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import FieldRow from '@/bench/FieldRow.vue'
import { type Unit, wrongWith } from './quantity'

/** A field over something that is kept: what is typed stands until the field is left, is kept then, and stays where it cannot be. */
defineOptions({ inheritAttrs: false })
const props = defineProps<{ value: string; label: string; unit?: Unit; number?: boolean; whole?: boolean; error?: string | null }>()
const emit = defineEmits<{ keep: [text: string] }>()
const text = ref(props.value)
const left = ref(false)
watch(() => props.value, (kept) => (text.value = kept))
const wrong = computed(() => (props.number || props.unit ? wrongWith(text.value, props.unit, props.whole) : null))

function keep() {
  left.value = true
  if (!wrong.value && text.value.trim() !== props.value) emit('keep', text.value.trim())
}
</script>

<template>
  <FieldRow :label="label" :error="(left ? wrong : null) ?? error" :class="$attrs.class">
    <template #default="{ id: field }"><ElInput :id="field" v-model="text" maxlength="60" v-bind="{ ...$attrs, class: undefined }" @focus="left = false" @change="keep" /></template>
  </FieldRow>
</template>
