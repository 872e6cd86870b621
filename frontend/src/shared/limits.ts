/** What can be chosen for sentences that fail, and for pictures, wherever limits are set. */
export const ON_FAILURE = [
  { value: 'stop', words: 'the row stops' },
  { value: 'go on', words: 'the row goes on' },
  { value: 'stop everything', words: 'the whole run stops' },
] as const

/** What can become of rows whose station died while it played them. */
export const ON_INTERRUPTED = [
  { value: 'leave', words: 'stay interrupted' },
  { value: 'play again', words: 'are played again' },
] as const

export const PICTURES = [
  { value: 'each step', words: 'of each step' },
  { value: 'failures', words: 'of failures' },
  { value: 'none', words: 'never' },
] as const
