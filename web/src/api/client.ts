import createClient, { type Middleware } from 'openapi-fetch'
import { Question } from '@/composables/question'
import { useSettings } from '@/composables/useSettings'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
/** What is wrong: said by the program, with its code, or by a page, before anything is sent. */
export type Line = Omit<Schemas['Line'], 'code'> & { code?: string }

const settings = useSettings()

export const client = createClient<paths>({ baseUrl: '' })

const asked = new Map<string, Question>()
const keys = new WeakMap<Request, string>()

/** What the program asked about is kept when the same is sent once more; a key that bounced has not read the question. */
const confirming: Middleware = {
  async onRequest({ request }) {
    if (request.method !== 'POST' || request.headers.get('content-type') !== 'application/json') return
    const key = `${request.url} ${await request.clone().text()}`
    const sure = asked.get(key)?.answeredBy(key) ?? false
    const sent = sure ? new Request(`${request.url}${request.url.includes('?') ? '&' : '?'}sure=true`, request) : request
    if (sure) asked.delete(key)
    keys.set(sent, key)
    return sent
  },
  async onResponse({ request, response }) {
    if (response.status !== 409) return
    const key = keys.get(request)
    const body = (await response.clone().json().catch(() => null)) as Schemas['Problem'] | null
    if (!key || !body?.asked || asked.has(key)) return
    asked.set(key, new Question())
    asked.get(key)!.ask(key)
  },
}
/** Acts of this page are told from those of other sites' pages by what only it was given. */
const own: Middleware = {
  onRequest({ request }) {
    const page = document.querySelector<HTMLMetaElement>('meta[name="page"]')?.content
    if (page && request.method !== 'GET') request.headers.set('X-Saldatura-Page', page)
    return request
  },
}
/** Sentences come with their temperatures in the unit that this browser shows. */
const inOwnUnit: Middleware = {
  onRequest({ request }) {
    if (settings.value.fahrenheit) request.headers.set('X-Saldatura-Degrees', 'F')
    return request
  },
}
client.use(own)
client.use(inOwnUnit)
client.use(confirming)

/** What the API answered when it refused: one line a field. */
export class Refusal extends Error {
  constructor(
    readonly lines: Line[],
    readonly status: number,
  ) {
    super(lines.map((line) => line.message).join(' '))
  }

  /** The message for a field, "pack.series" or any field below it. */
  on(field: string): string | undefined {
    return this.lines.find((line) => line.field === field || line.field.startsWith(`${field}.`))?.message
  }
}

interface Answer<T> {
  data?: T
  error?: unknown
  response: Response
}

/** The data of an answer; a Refusal when the API said no, or when it could not be reached. */
export async function settled<T>(pending: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await pending
  } catch {
    throw new Refusal([{ field: 'connection', message: 'Saldatura does not answer. Start it again; what you typed is still here.' }], 0)
  }
  if (answer.data !== undefined) return answer.data
  const lines = (answer.error as { errors?: Line[] } | undefined)?.errors
  const question = (answer.error as { asked?: boolean } | undefined)?.asked === true
  if (lines && question) throw new Refusal(lines.map((l) => ({ ...l, message: `${l.message} Once more keeps it; or type what is meant.` })), answer.response.status)
  throw new Refusal(lines ?? [{ field: 'server', message: 'The program failed at this; nothing was changed. Try again.' }], answer.response.status)
}
