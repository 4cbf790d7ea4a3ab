<script setup lang="ts">
import { onBeforeUnmount, ref, shallowRef, useTemplateRef } from 'vue'
import { useSettings } from '@/composables/useSettings'
import { scanned } from './useCells'

/** A label scanned, by a reader that types or by the camera where the browser reads codes itself; or a name typed. */
interface Reader {
  detect: (source: HTMLVideoElement) => Promise<{ rawValue: string }[]>
}
const emit = defineEmits<{ scan: [string] }>()
const settings = useSettings()
const text = ref('')
const maker = (window as unknown as { BarcodeDetector?: new (of: { formats: string[] }) => Reader }).BarcodeDetector
const video = useTemplateRef<HTMLVideoElement>('video')
const stream = shallowRef<MediaStream | null>(null)
const trouble = ref('')
let timer: ReturnType<typeof setInterval> | undefined

function stop() {
  clearInterval(timer)
  stream.value?.getTracks().forEach((track) => track.stop())
  stream.value = null
}
async function look() {
  trouble.value = ''
  try {
    stream.value = await navigator.mediaDevices.getUserMedia({ video: { facingMode: 'environment' } })
  } catch {
    trouble.value = 'The camera cannot be used here; type the name, or use a reader that types.'
    return
  }
  const reader = new maker!({ formats: ['qr_code'] })
  await new Promise((done) => setTimeout(done))
  if (video.value) {
    video.value.srcObject = stream.value
    await video.value.play()
  }
  timer = setInterval(async () => {
    const found = video.value ? await reader.detect(video.value).catch(() => []) : []
    if (!found[0]) return
    stop()
    emit('scan', scanned(found[0].rawValue))
  }, 250)
}
function typed() {
  if (!text.value.trim()) return
  emit('scan', scanned(text.value))
  text.value = ''
}
// A reader may end its label with Tab, as it was taught.
function tabbed(event: Event | KeyboardEvent) {
  if (!('shiftKey' in event) || settings.value.scanner !== 'Tab' || event.shiftKey || !text.value.trim()) return
  event.preventDefault()
  typed()
}
onBeforeUnmount(stop)
</script>

<template>
  <form class="scan" @submit.prevent="typed">
    <ElInput v-model="text" aria-label="Scan a label, or type a cell’s name" placeholder="scan, or a name" @keydown.tab="tabbed" />
    <ElButton v-if="maker && !stream" @click="look">Camera</ElButton>
    <template v-if="stream"><video ref="video" muted playsinline></video><ElButton @click="stop">Camera off</ElButton></template>
    <p v-if="trouble" class="error" role="alert">{{ trouble }}</p>
  </form>
</template>

<style scoped>
.scan {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}

.scan > .el-input {
  flex: 1 1 150px;
}

video {
  width: 100%;
}
</style>
