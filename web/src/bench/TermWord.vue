<script setup lang="ts">
import { computed } from 'vue'
import { useTermsQuery } from '@/api/queries'

/** A word of the trade where it is first met: underlined in dots, explained in one line to whoever points, tabs or touches. */
const props = defineProps<{ of: string }>()
const { data } = useTermsQuery()
const meaning = computed(() => data.value?.glossary[props.of])
</script>

<template>
  <ElTooltip v-if="meaning" :content="meaning" :trigger="['hover', 'focus', 'click']" placement="bottom-start" :show-arrow="false" :offset="4" :show-after="150" popper-class="meaning">
    <dfn tabindex="0"><slot /></dfn>
  </ElTooltip>
  <slot v-else />
</template>

<style scoped>
dfn {
  cursor: help;
  font-style: normal;
  text-decoration: underline dotted 1px;
  text-underline-offset: 3px;
}
</style>
