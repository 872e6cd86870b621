import { reactive } from 'vue'

import { ApiProblem } from '@/api/client'

export interface Note {
  id: number
  kind: 'said' | 'problem'
  text: string
  hint: string
  undo?: () => void
}

const LASTS = 7000
let last = 0

export const notes = reactive<Note[]>([])

export function dismiss(id: number): void {
  const place = notes.findIndex((note) => note.id === id)
  if (place >= 0) notes.splice(place, 1)
}

function add(note: Omit<Note, 'id'>, lasts: number): void {
  const id = ++last
  notes.push({ ...note, id })
  if (notes.length > 4) notes.shift()
  window.setTimeout(() => dismiss(id), lasts)
}

/** Say that something was done, with a way to take it back where there is one. */
export function say(text: string, undo?: () => void): void {
  add({ kind: 'said', text, hint: '', undo }, LASTS)
}

/** Say that something went wrong: what, and what to do. */
export function complain(error: unknown): void {
  if (error instanceof ApiProblem) add({ kind: 'problem', text: error.message, hint: error.hint }, LASTS * 2)
  else add({ kind: 'problem', text: String((error as Error)?.message ?? error), hint: '' }, LASTS * 2)
}
