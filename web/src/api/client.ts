import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Line = Schemas['Line']

export const client = createClient<paths>({ baseUrl: '' })

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
  throw new Refusal(lines ?? [{ field: 'server', message: 'The program failed at this; nothing was changed. Try again.' }], answer.response.status)
}
