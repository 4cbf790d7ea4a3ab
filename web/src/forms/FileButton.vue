<script setup lang="ts">
import type { UploadFile } from 'element-plus'

/** A button that asks for one file and hands it over; what becomes of it is its user's. On a phone a picture may come from the camera. */
withDefaults(defineProps<{ label: string; accept: string; busy?: boolean; quiet?: boolean }>(), { busy: false, quiet: false })
const emit = defineEmits<{ chosen: [File] }>()
const take = (file: UploadFile) => file.status === 'ready' && file.raw && emit('chosen', file.raw)
</script>

<template>
  <ElUpload class="file" :class="{ quiet }" :accept="accept" :auto-upload="false" :show-file-list="false" :disabled="busy" :on-change="take"><span>{{ label }}</span></ElUpload>
</template>

<style scoped>
.file :deep(.el-upload) {
  align-items: center;
  border: 1px solid var(--petrol);
  color: var(--petrol);
  cursor: pointer;
  display: inline-flex;
  font-size: 16px;
  font-weight: 650;
  justify-content: center;
  min-height: 44px;
  padding: 0 16px;
  width: 100%;
}

.file.quiet :deep(.el-upload) {
  border: 0;
  padding: 0;
  text-decoration: underline;
  text-underline-offset: 3px;
  width: auto;
}

.file :deep(.el-upload:focus-visible) {
  outline: 3px solid var(--copper);
  outline-offset: 2px;
}
</style>
