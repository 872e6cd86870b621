import { computed, onBeforeUnmount, reactive, watch } from 'vue'

import type { Shapes } from './client'

type Notice = Shapes['Notice']

/** Somebody else's page that has the same test open: where in it, and what goes on there. */
export interface Other {
  who: string
  name: string
  account: number
  at: string
  doing: NonNullable<Notice['doing']>
}
interface Heard extends Other {
  test: number
  until: number
}

/** Milliseconds after which somebody of whom nothing was heard is gone. */
const LASTS = 4500
const LOOK = 500

/** What this page calls itself. */
const self = crypto.randomUUID()
const heard = reactive(new Map<string, Heard>())
const here = reactive({ test: 0, at: '', doing: '' as Other['doing'] })
/** The runs that this page follows closely, each as often as it is shown. */
const runs: number[] = []
let say: ((text: string) => void) | null = null

function tell(): void {
  say?.(JSON.stringify({ who: self, ...here, runs }))
}

/** Say in which test this page is, at which sentence, and what it does; a test of 0 is none. */
export function hereIs(test: number, at = '', doing: Other['doing'] = ''): void {
  if (here.test === test && here.at === at && here.doing === doing) return
  if (here.test !== test) heard.clear()
  Object.assign(here, { test, at, doing })
  tell()
}

/** Let what this page says of itself go over a connection; null when there is none any more. */
export function sayOver(send: ((text: string) => void) | null): void {
  say = send
  if (here.test || runs.length) tell()
}

/** Take in a notice about presence. */
export function hear(notice: Notice): void {
  const { who = '', id, name = '', account = 0, at = '', doing = '' } = notice
  if (who === self) return
  if (doing === 'gone') heard.delete(who)
  else heard.set(who, { who, name, account, at, doing, test: Number(id), until: Date.now() + LASTS })
}

window.setInterval(() => {
  for (const [who, one] of heard) if (one.until < Date.now()) heard.delete(who)
}, LOOK)

/** Who else has the test of this page open. */
export const others = computed<Other[]>(() =>
  [...heard.values()]
    .filter((one) => one.test === here.test)
    .sort((one, other) => one.name.localeCompare(other.name) || one.who.localeCompare(other.who)),
)

/** Say for as long as a page is shown in which test it is; `id` is 0 until that is known. */
export function useHere(id: () => number, at = () => '', doing: () => Other['doing'] = () => ''): void {
  watch([id, at, doing] as const, (now) => hereIs(...now), { immediate: true })
  onBeforeUnmount(() => here.test === id() && hereIs(0))
}

/** Be told of each change in a run for as long as it is shown; `id` is 0 while there is none. */
export function useFollowed(id: () => number): void {
  let now = 0
  const follow = (next: number) => {
    if (now) runs.splice(runs.indexOf(now), 1)
    now = next
    if (now) runs.push(now)
    tell()
  }
  watch(id, follow, { immediate: true })
  onBeforeUnmount(() => now && follow(0))
}
