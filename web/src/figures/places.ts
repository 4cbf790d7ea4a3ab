import type { Schemas } from '@/api/client'

export type Place = Schemas['PhotoPin']['place']

/** A place as the run and the power path name it. */
export const placeName = (place: Place) => (place.kind === 'tap' ? `tap ${place.tap}` : place.kind === 'node' ? place.node : place.sensor)
