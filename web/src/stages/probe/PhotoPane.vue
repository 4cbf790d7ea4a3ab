<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useRoute } from 'vue-router'
import { useStorage } from '@vueuse/core'
import TakeBack from '@/bench/TakeBack.vue'
import { computed, nextTick, shallowRef, useTemplateRef, watch } from 'vue'
import { client, type Schemas, settled } from '@/api/client'
import type { Point } from '@/composables/useFigure'
import { useJob } from '@/composables/useJob'
import PhotoFigure from '@/figures/PhotoFigure.vue'
import { type Place, placeName } from '@/figures/places'
import { PICTURES, photoUrl, touched, usePhotos } from './usePhotos'
import FileButton from '@/forms/FileButton.vue'
import { photoOf } from '@/patterns/usePatterns'

/** The photo of the opened pack: its pins say where the next point is, and a click on one reads there. */
const props = defineProps<{ point: Point | null; series: number; strings: number; outside?: boolean }>()
const emit = defineEmits<{ pick: [tap: number] }>()

const job = useJob()
const { add, busy, chosen, photos, put, said, shown: own } = usePhotos(job)
// Photos of the pattern stand behind the pack's own: they are looked at, and their points read, but no pin of this pack is put on them.
const route = useRoute()
const theirs = computed(() => job.value.assessment.pattern?.sheet.photos ?? [])
const lookedAt = shallowRef<string | null>(route.query.photo ? String(route.query.photo) : null)
watch(() => route.query.photo, (name) => name && (lookedAt.value = String(name)))
// Nothing chosen: the photo that has the points to touch next.
// A contact that is a pole or a tap is touched where that is.
const behind = (c: Schemas['ContactSeen']) => (c.touches === 'minus' ? 'tap 0' : c.touches === 'plus' ? `tap ${props.series / props.strings}` : c.touches === 'tap' ? `tap ${c.tap}` : null)
const litNow = computed(() => {
  const names = touched(props.point, props.series, props.strings)
  return [...names, ...(job.value.assessment.pattern?.sheet.contacts ?? []).filter((c) => names.includes(behind(c) ?? '')).map((c) => c.contact)]
})
const shows = (p: (typeof theirs.value)[number]) => p.points.filter((pin) => litNow.value.includes(placeName(pin.place))).length >= touched(props.point, props.series, props.strings).length
const pattern = computed(() => theirs.value.find((p) => p.photo === lookedAt.value) ?? (photos.value.length ? null : ((props.outside ? null : theirs.value.findLast(shows)) ?? theirs.value.find(shows) ?? theirs.value[0] ?? null)))
const shown = computed(() => (pattern.value ? null : own.value))
const OWN = 'own:'
const which = computed(() => (pattern.value ? pattern.value.photo : `${OWN}${shown.value?.photo.id}`))
function look(key: string) {
  lookedAt.value = key.startsWith(OWN) ? null : key
  if (key.startsWith(OWN)) chosen.value = Number(key.slice(OWN.length))
}
const caption = shallowRef('')
const placing = shallowRef(false)
const named = shallowRef<string | null>(null)
const pane = useTemplateRef<HTMLElement>('pane')
// Pins want a large picture more than they want the number above it.
watch(placing, async () => {
  await nextTick()
  pane.value?.scrollIntoView({ block: placing.value ? 'start' : 'nearest' })
})
const { data: templates } = useQuery({ queryKey: ['path-templates'], queryFn: () => settled(client.GET('/api/measures/path-templates')), staleTime: Infinity })
const path = useStorage(`saldatura.path.${job.value.facts.id}`, { template: 'high_side' })

const places = computed<Place[]>(() => [
  ...Array.from({ length: props.series + 1 }, (_, tap): Place => ({ kind: 'tap', tap })),
  ...(templates.value?.[path.value.template as 'high_side'] ?? []).map((part): Place => ({ kind: 'node', node: part.node })),
  { kind: 'sensor', sensor: 'sensor 1' },
  { kind: 'sensor', sensor: 'sensor 2' },
])
const pins = computed(() => pattern.value?.points ?? shown.value?.pins ?? [])
const plate = computed(() => pattern.value ?? shown.value?.photo ?? null)
// A photo of the pattern as the figure takes one.
const asPhoto = computed(() => pattern.value && ({ id: 0, at: '', clock_s: null, sha256: pattern.value.sha256, width: pattern.value.width, height: pattern.value.height, caption: `${pattern.value.photo}, of the pattern` }))
const isPinned = (place: Place) => pins.value.some((pin) => placeName(pin.place) === placeName(place))
// The one chosen, else the first that has no pin yet.
const next = computed(() => places.value.find((p) => placeName(p) === named.value) ?? places.value.find((p) => !isPinned(p)) ?? null)
const unpinned = computed(() => touched(props.point, props.series, props.strings).filter((name) => !pins.value.some((pin) => placeName(pin.place) === name)))

async function choose(file: File) {
  const before = photos.value.length
  lookedAt.value = null
  await add(file, caption.value)
  if (photos.value.length > before) {
    caption.value = ''
    placing.value = true
  }
}

async function drop(x: number, y: number) {
  if (next.value && (await put(next.value, x, y))) named.value = null
}

function pick(place: Place) {
  if (placing.value) void put(place, null, null)
  else if (place.kind === 'tap' && place.tap > 0) emit('pick', place.tap)
}
</script>

<template>
  <section ref="pane" class="photos" :class="{ placing, roomy: !point, beside: (shown || pattern) && !placing }" :style="plate ? { '--w': plate.width, '--h': plate.height } : undefined" aria-label="Photos">
    <div class="bar">
      <ElSelect v-if="!placing && photos.length + theirs.length > 1" :model-value="which" class="which" aria-label="Photo" @update:model-value="look($event)"><ElOption v-for="(p, i) in photos" :key="p.photo.id" :value="`${OWN}${p.photo.id}`" :label="p.photo.caption || `photo ${i + 1}`" /><ElOption v-for="p in theirs" :key="p.photo" :value="p.photo" :label="`${p.photo}, of the pattern`" /></ElSelect>
      <template v-if="shown">
        <button type="button" class="linklike first" :aria-pressed="placing" @click="placing = !placing">{{ placing ? 'done with pins' : 'put pins' }}</button>
        <template v-if="placing">
          <span>click where</span>
          <ElSelect :model-value="next ? placeName(next) : ''" class="place" aria-label="What the next pin marks" @update:model-value="named = $event"><ElOption v-for="p in places" :key="placeName(p)" :value="placeName(p)" :label="`${placeName(p)}${isPinned(p) ? ', moves' : ''}`" /></ElSelect>
          <span class="muted">is; a pin clicked comes off</span>
        </template>
        <TakeBack v-if="!placing && job.assessment.closed === null" :fact="shown.photo.id" what="this photo" />
      </template>
      <FileButton v-if="!placing" quiet class="first" :label="shown || pattern ? 'Add a photo' : 'Take or choose a photo'" :accept="PICTURES" :busy="busy" @chosen="choose" />
      <ElInput v-if="!placing && !shown && !pattern" v-model="caption" class="caption" aria-label="What it shows" placeholder="what it shows: pack opened, board front" maxlength="80" />
    </div>
    <p v-if="said" class="error" role="alert">{{ said }}</p>
    <PhotoFigure v-if="shown" class="plate" :src="photoUrl(job.facts.id, shown.photo.id)" :photo="shown.photo" :pins="pins" :lit="touched(point, series, strings)" :placing="placing && next ? placeName(next) : null" @put="drop" @pick="pick" />
    <PhotoFigure v-if="pattern && asPhoto" class="plate" :src="photoOf(pattern.sha256)" :photo="asPhoto" :pins="pattern.points" :lit="litNow" :placing="null" @pick="pick" />
    <p v-if="pattern" class="muted">Another pack of this model. Look at yours before the probe goes there.</p>
    <p v-if="(shown || pattern) && !placing && unpinned.length" class="muted">No pin yet for {{ unpinned.join(' and ') }}.</p>
    <p v-if="!shown && !pattern" class="muted">A photo of the opened pack or board, with a pin on each tap: the next point then pulses where the probe goes. Where and with what it was taken is left out.</p>
  </section>
</template>

<style scoped>
.photos {
  --tall: max(200px, calc(100vh - 595px));

  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}

.photos.roomy {
  --tall: max(230px, calc(100vh - 430px));
}

.photos.placing {
  --tall: max(230px, calc(100vh - 400px));
}

.bar {
  align-items: center;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  min-height: 36px;
}

/* What can be done stands beside the photo, which keeps the height. */
.photos.beside {
  column-gap: 18px;
  grid-template-columns: minmax(0, calc(var(--tall) * var(--w) / var(--h))) minmax(110px, 1fr);
}

.beside .plate {
  grid-area: 1 / 1 / span 3;
}

.beside > :not(.plate) {
  align-items: flex-start;
  flex-direction: column;
  grid-column: 2;
}

.first {
  margin-left: 0;
}

.which {
  width: 170px;
}

.place {
  width: 190px;
}

.caption {
  width: 300px;
}

</style>
