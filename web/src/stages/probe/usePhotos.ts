import { computed, type Ref, shallowRef } from 'vue'
import { client, settled } from '@/api/client'
import type { JobView } from '@/api/queries'
import type { Point } from '@/composables/useFigure'
import { tapsOf } from '@/composables/points'
import { useAct } from '@/composables/useAct'
import type { Place } from '@/figures/places'

/** What a photo may be. */
export const PICTURES = 'image/jpeg,image/png,image/webp'
const MOST_BYTES = 24 * 2 ** 20

export const photoUrl = (job: number, photo: number) => `/api/jobs/${job}/photos/${photo}`

/** The pins that a point touches: both of its taps, or the string's ends for the terminals. The minus of a later string is tap 0. */
export function touched(point: Point | null, series: number, strings = 1): string[] {
  if (!point) return []
  const each = series / strings
  const [black, red] = tapsOf(point) ?? [0, each]
  return [black < red && black % each === 0 ? 0 : black, red].map((tap) => `tap ${tap}`)
}

/** One line where a file is more than is taken; null where it is not. */
export const tooLarge = (file: File) => (file.size > MOST_BYTES ? `${file.name} has ${Math.round(file.size / 2 ** 20)} MiB; 24 are taken. Take it at a lower resolution.` : null)

/** Keep a photo with a job. */
export const send = (job: number, file: File, caption: string) =>
  settled(
    client.POST('/api/jobs/{job_id}/photos', {
      params: { path: { job_id: job }, query: { caption } },
      body: file as unknown as string,
      bodySerializer: (body) => body,
      headers: { 'Content-Type': 'application/octet-stream' },
    }),
  )

/** A job's photos: which one is looked at, adding one, and putting, moving and taking off its pins. */
export function usePhotos(job: Readonly<Ref<JobView>>) {
  const { act, busy, refusal } = useAct()
  const said = shallowRef<string | null>(null)
  const chosen = shallowRef<number | null>(null)
  const photos = computed(() => job.value.assessment.photos)
  const shown = computed(() => photos.value.find((p) => p.photo.id === chosen.value) ?? photos.value.at(-1) ?? null)

  async function add(file: File, caption: string) {
    said.value = null
    said.value = tooLarge(file)
    if (said.value) return
    const view = await act(() => send(job.value.facts.id, file, caption))
    if (view) chosen.value = view.assessment.photos.at(-1)!.photo.id
    else if (refusal.value) said.value = `${file.name} ${refusal.value.message}`
  }

  async function put(place: Place, x: number | null, y: number | null): Promise<boolean> {
    said.value = null
    const body = { photo: shown.value!.photo.id, place, x, y }
    const view = await act(() => settled(client.POST('/api/jobs/{job_id}/pins', { params: { path: { job_id: job.value.facts.id } }, body })))
    if (!view) said.value = refusal.value?.message ?? null
    return view !== null
  }

  return { add, busy, chosen, photos, put, said, shown }
}
