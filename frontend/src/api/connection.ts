import { reactive, watch } from 'vue'

const AGAIN = 1500

/** Whether Lantern answers, and how many changes wait to be sent until it does. */
export const connection = reactive({ down: false, waiting: 0 })

let looking = 0

async function look(): Promise<void> {
  window.clearTimeout(looking)
  looking = 0
  try {
    await fetch('/api/health', { cache: 'no-store' })
    connection.down = false // whatever it says of its parts: it answers
  } catch {
    connection.down = true
    looking = window.setTimeout(() => void look(), AGAIN)
  }
}

/** An answer never came: look whether there will be any, and go on looking until there is. */
export function lost(): void {
  connection.down = true
  if (!looking) looking = window.setTimeout(() => void look(), AGAIN)
}

/** Find out whether Lantern answers. */
export const check = () => void look()

window.addEventListener('offline', () => lost())
window.addEventListener('online', () => void look())

/** Resolves as soon as Lantern answers (again). */
export function answers(): Promise<void> {
  if (!connection.down) return Promise.resolve()
  return new Promise((resolve) => {
    const stop = watch(
      () => connection.down,
      (down) => {
        if (down) return
        stop()
        resolve()
      },
    )
  })
}
