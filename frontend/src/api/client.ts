import createClient from 'openapi-fetch'
import { reactive } from 'vue'

import { lost } from './connection'
import type { components, paths } from './schema'

export type Shapes = components['schemas']
export type Test = Shapes['TestOut']
export type Step = Shapes['StepOut']
export type Run = Shapes['RunOut']
export type Result = Shapes['ResultOut']
export type Catalogue = Shapes['Catalogue']

/** An error that the API answered with: what happened, to which thing, what to do. */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly where = '',
    readonly hint = '',
  ) {
    super(message)
  }
}

/** Who is signed in; empty until `me` was asked. */
export const session = reactive<{ me: Shapes['Me'] | null }>({ me: null })

export const api = createClient<paths>({ baseUrl: '' })

api.use({
  onRequest({ request }) {
    request.headers.set('Prefer', 'return=lean') // tables are asked for by themselves
    if (request.method !== 'GET' && session.me) request.headers.set('X-CSRF-Token', session.me.csrf)
    return request
  },
})

/** Whether an answer never came, so that nobody knows whether it was done. */
export const isOffline = (error: unknown) => error instanceof ApiProblem && error.code === 'offline'

/** Whether it was refused because the sign-in has ended. */
export const isSignedOut = (error: unknown) => error instanceof ApiProblem && error.status === 401

/** The data of an answer; throws ApiProblem when it was an error or never came. */
export async function ask<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got
  try {
    got = await answer
  } catch {
    lost()
    throw new ApiProblem(
      0,
      'offline',
      'Lantern does not answer.',
      '',
      'Is it still running? Try again in a moment.',
    )
  }
  if (got.error !== undefined || !got.response.ok) {
    const problem = (got.error ?? {}) as Partial<Shapes['Problem']>
    if (got.response.status === 401 && session.me) session.me = null
    throw new ApiProblem(
      got.response.status,
      problem.code ?? 'unknown',
      problem.message ?? `Lantern answered with the error ${got.response.status}.`,
      problem.where,
      problem.hint,
    )
  }
  return got.data as T
}

export const mayChange = () => session.me?.account.role !== 'viewer'
export const isLead = () => session.me?.account.role === 'lead'
export const pictureUrl = (digest: string) => `/api/pictures/${digest}`
