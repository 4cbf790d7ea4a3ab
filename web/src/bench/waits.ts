import type { Schemas } from '@/api/client'
import { stagePath } from '@/router'

type Wait = Schemas['Waiting']
type Kind = Wait['kind']

/** What a wait is, in a word; when it is over; and as a sentence. */
export const DOES: Record<Kind, string> = { charge: 'charges', rest: 'at rest', cure: 'cures', cool: 'cools', capacity: 'capacity test', self_discharge: 'self-discharge' }
export const DONE: Record<Kind, string> = { charge: 'full', rest: 'rested', cure: 'cured', cool: 'cool', capacity: 'should be empty', self_discharge: 'read it now' }
const SAYS: Record<Exclude<Kind, 'charge'>, string> = { rest: 'At rest before the proving readings', cure: 'What was glued or coated cures', cool: 'What was soldered or welded cools', capacity: 'A capacity test runs', self_discharge: 'Watched for self-discharge' }
const STAGE: Record<Kind, string> = { charge: 'level', rest: 'prove', cure: 'join', cool: 'join', capacity: 'measures', self_discharge: 'prove' }

export const waitsFor = (w: Wait) => (w.kind === 'charge' ? `Group ${w.group} is charging` : SAYS[w.kind])
export const target = (w: Wait) => stagePath(w.job_id, STAGE[w.kind])
