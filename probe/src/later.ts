/** Looking a little later what became of something, at the latest before the next act. */

const waiting = new Set<() => void>()

export function later(time: number, look: () => void): void {
  const once = () => waiting.delete(once) && look()
  waiting.add(once)
  setTimeout(once, time)
}

/** Tell what is still waited for: the next act begins. */
export function tellWaiting(): void {
  for (const once of [...waiting]) once()
}
