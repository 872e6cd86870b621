import { reactive } from 'vue'

import { ApiProblem } from '@/api/client'

export interface Note {
  id: number
  kind: 'said' | 'problem'
  text: string
  hint: string
  /** What it is about, where a newer note or a newer state makes it untrue. */
  about?: string
  undo?: () => void
}

const LASTS = 7000
let last = 0

export const notes = reactive<Note[]>([])

export function dismiss(id: number): void {
  const place = notes.findIndex((note) => note.id === id)
  if (place >= 0) notes.splice(place, 1)
}

/** Take back what was said about something that is no longer so. */
export function unsay(about: string): void {
  for (const note of notes.filter((one) => one.about === about)) dismiss(note.id)
}

function add(note: Omit<Note, 'id'>, lasts: number): void {
  const id = ++last
  notes.push({ ...note, id })
  if (notes.length > 4) notes.shift()
  window.setTimeout(() => dismiss(id), lasts)
}

/** Say that something was done, with a way to take it back where there is one. */
export function say(text: string, undo?: () => void, about?: string): void {
  add({ kind: 'said', text, hint: '', undo, about }, LASTS)
}

/** Say that something went wrong: what, and what to do. */
export function complain(error: unknown): void {
  if (error instanceof ApiProblem) add({ kind: 'problem', text: error.message, hint: error.hint }, LASTS * 2)
  else add({ kind: 'problem', text: String((error as Error)?.message ?? error), hint: '' }, LASTS * 2)
}
