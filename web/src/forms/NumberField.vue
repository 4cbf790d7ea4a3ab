<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import FieldRow from '@/bench/FieldRow.vue'
import { splitLine, quantity, type Unit, wrongWith } from './quantity'

/**
 * A number with its unit as it is typed. What is no number is said when the field is left, and what is hardly meant is asked; the text
 * stays as it is whatever becomes of it. `bare`: the label says the unit itself; `many`: a line of numbers;
 * `names`: words that stand for a number, which whoever receives them knows.
 */
defineOptions({ inheritAttrs: false })
const text = defineModel<string | undefined>({ required: true })
const props = defineProps<{ label: string; unit?: Unit; error?: string | null; whole?: boolean; likely?: [number, number]; bare?: boolean; many?: boolean; names?: RegExp }>()
const left = ref(false)
// In a line of numbers: what was not read, or is not there.
const UNREAD = /^[-–x]$/
const input = useTemplateRef<{ focus: () => void }>('input')
defineExpose({ focus: () => input.value?.focus() })

const wrong = computed(() => {
  if (props.many) return splitLine((text.value ?? '').replace(/,\s+/g, ' ')).map((part) => (UNREAD.test(part) ? null : wrongWith(part, props.unit, props.whole))).find(Boolean) ?? null
  if (props.names?.test(text.value?.trim() ?? '')) return null
  const own = wrongWith(text.value, props.unit, props.whole)
  if (own || !props.likely || !text.value?.trim()) return own
  const value = quantity(text.value, props.unit)!
  const [low, high] = props.likely
  return value < low || value > high ? `${text.value.trim()}? Usually ${low} to ${high}. It is kept as typed; correct it if it is a slip` : null
})
</script>

<template>
  <FieldRow :label="unit && unit !== 'money' && !bare ? `${label}, ${unit}` : label" :error="(left ? wrong : null) ?? error" :class="$attrs.class">
    <template #default="{ id: field }">
      <ElInput :id="field" ref="input" v-model="text" inputmode="decimal" :maxlength="many ? 400 : 30" v-bind="{ ...$attrs, class: undefined }" @focus="left = false" @blur="left = true" />
    </template>
  </FieldRow>
</template>
