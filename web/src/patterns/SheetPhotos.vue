<script setup lang="ts">
import { computed, ref } from 'vue'
import { client, Refusal, settled } from '@/api/client'
import { useAct } from '@/composables/useAct'
import PhotoFigure from '@/figures/PhotoFigure.vue'
import { type Place, placeName } from '@/figures/places'
import FileButton from '@/forms/FileButton.vue'
import TextField from '@/forms/TextField.vue'
import { PICTURES, tooLarge } from '@/stages/probe/usePhotos'
import { photoOf, type Sheet } from './usePatterns'

/** The photos of a sheet with their points; while it is worked on, photos and points are put and taken off. */
const chosen = defineModel<string | null>({ required: true })
const props = defineProps<{ sheet: Sheet; working: boolean; lit?: string[] }>()
const emit = defineEmits<{ photos: [photos: Sheet['photos']] }>()
type Photo = Sheet['photos'][number]
const { act, busy, refusal } = useAct()
const name = ref('')
const placing = ref(false)
const next = ref('tap 0')
const shown = computed<Photo | null>(() => props.sheet.photos.find((p) => p.photo === chosen.value) ?? props.sheet.photos[0] ?? null)
const places = computed<Place[]>(() => [
  ...props.sheet.contacts.map((c): Place => ({ kind: 'node', node: c.contact })),
  ...Array.from({ length: props.sheet.pack.series + 1 }, (_, tap): Place => ({ kind: 'tap', tap })),
  { kind: 'sensor', sensor: 'sensor 1' },
  { kind: 'sensor', sensor: 'sensor 2' },
])
const asFact = (p: Photo) => ({ id: 0, at: '', clock_s: null, sha256: p.sha256, width: p.width, height: p.height, caption: p.photo })
const asPhoto = computed(() => shown.value && asFact(shown.value))
const others = computed(() => (props.working ? [] : props.sheet.photos.filter((p) => p !== shown.value)))
const change = (photo: Photo) => emit('photos', props.sheet.photos.map((p) => (p.photo === shown.value!.photo ? photo : p)))

async function add(file: File) {
  const large = tooLarge(file)
  if (large) return void (refusal.value = new Refusal([{ field: 'photo', message: large }], 422))
  const kept = await act(() => settled(client.POST('/api/patterns/photos', { body: file as unknown as string, bodySerializer: (body) => body, headers: { 'Content-Type': 'application/octet-stream' } })))
  if (!kept) return
  const base = name.value.trim() || 'photo'
  const taken = (n: string) => props.sheet.photos.some((p) => p.photo.toLowerCase() === n.toLowerCase())
  let called = base
  for (let i = 2; taken(called); i++) called = `${base} ${i}`
  emit('photos', [...props.sheet.photos, { photo: called, ...kept, points: [], source: 'told', origin: '', confirmed: 0, contradicted: 0 }])
  chosen.value = called
  name.value = ''
  placing.value = true
}
function put(x: number, y: number) {
  const place = places.value.find((p) => placeName(p) === next.value)
  if (!place || !shown.value) return
  const points = [...shown.value.points.filter((p) => placeName(p.place) !== next.value), { place, x: Number(x.toFixed(4)), y: Number(y.toFixed(4)) }]
  change({ ...shown.value, points })
  const at = places.value.findIndex((p) => placeName(p) === next.value)
  next.value = placeName(places.value[at + 1] ?? place)
}
function pick(place: Place) {
  if (placing.value && shown.value) change({ ...shown.value, points: shown.value.points.filter((p) => placeName(p.place) !== placeName(place)) })
}
</script>

<template>
  <div class="photos">
    <PhotoFigure v-if="shown && asPhoto" class="plate" :src="photoOf(shown.sha256)" :photo="asPhoto" :pins="shown.points" :lit="lit ?? []" :placing="working && placing ? next : null" @put="put" @pick="pick" />
    <!-- On paper nothing can be chosen: every photo is there. -->
    <PhotoFigure v-for="p in others" :key="p.photo" class="onlyprint" :src="photoOf(p.sha256)" :photo="asFact(p)" :pins="p.points" :lit="[]" :placing="null" />
    <div v-if="sheet.photos.length > 1" class="chips noprint"><button v-for="p in sheet.photos" :key="p.photo" type="button" class="chip" :aria-pressed="p.photo === shown?.photo" @click="chosen = p.photo">{{ p.photo }}</button></div>
    <div v-if="working" class="bar">
      <template v-if="shown">
        <button type="button" class="chip" :aria-pressed="placing" @click="placing = !placing">{{ placing ? 'done with points' : 'put points' }}</button>
        <ElSelect v-if="placing" v-model="next" class="place" aria-label="What the next point marks"><ElOption v-for="p in places" :key="placeName(p)" :value="placeName(p)" :label="placeName(p)" /></ElSelect>
        <button type="button" class="linklike" @click="emit('photos', sheet.photos.filter((p) => p.photo !== shown!.photo))">take this photo off</button>
      </template>
      <TextField v-model="name" label="The next photo shows" maxlength="50" class="name" />
      <FileButton label="Add a photo" :accept="PICTURES" :busy="busy" @chosen="add" />
    </div>
    <p v-if="refusal" class="error" role="alert">{{ refusal.message }}</p>
  </div>
</template>

<style scoped>
.photos {
  --tall: 300px;

  display: grid;
  gap: 8px;
}

.bar {
  align-items: end;
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}

.place {
  width: 190px;
}

.name {
  flex: 1 1 180px;
}
</style>
