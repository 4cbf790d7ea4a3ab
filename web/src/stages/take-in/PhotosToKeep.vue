<script setup lang="ts">
import { onScopeDispose, shallowRef } from 'vue'
import FileButton from '@/forms/FileButton.vue'
import { PICTURES, tooLarge } from '@/stages/probe/usePhotos'

/** Photos of a pack that has no job yet: shown at once, kept with the job once it is taken in. */
const photos = defineModel<File[]>({ required: true })
const said = shallowRef<string | null>(null)
const urls = new Map<File, string>()
function url(file: File) {
  if (!urls.has(file)) urls.set(file, URL.createObjectURL(file))
  return urls.get(file)!
}
onScopeDispose(() => urls.forEach((u) => URL.revokeObjectURL(u)))

async function add(file: File) {
  said.value = tooLarge(file)
  if (said.value) return
  try {
    ;(await createImageBitmap(file)).close()
    photos.value = [...photos.value, file]
  } catch {
    said.value = `${file.name} is no picture that can be read: choose a JPEG, PNG or WebP`
  }
}
</script>

<template>
  <div class="photos" role="group" aria-label="Photos as it came">
    <figure v-for="(file, i) in photos" :key="i"><img :src="url(file)" :alt="file.name" /><button type="button" class="linklike" :aria-label="`remove ${file.name}`" @click="photos = photos.filter((f) => f !== file)">remove</button></figure>
    <FileButton :label="photos.length ? 'Add a photo' : 'Take or choose a photo as it came'" :accept="PICTURES" @chosen="add" />
    <p v-if="said" class="error" role="alert">{{ said }}</p>
  </div>
</template>

<style scoped>
.photos {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px 16px;
}

figure {
  display: grid;
  justify-items: start;
  margin: 0;
}

img {
  border: 1px solid var(--rule);
  height: 90px;
}
</style>
