<script setup lang="ts">
import { askChange } from '@/bench/acts'

/** A group that only other cells make chargeable again: the form in which they are told. */
defineProps<{ group: number }>()
</script>

<template>
  <button type="button" class="linklike" @click="askChange('cells', [group])">group {{ group }} has new cells</button>
</template>

<style scoped>
.linklike {
  justify-self: start;
  min-height: 44px;
}
</style>
