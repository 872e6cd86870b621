/** What moves by itself on a page: nothing is pressed before it is at rest. */
import { unchanged } from './changing'
import { parentOf } from './nodes'

/** Resolves when the page is drawn the next time. */
export const frame = () => new Promise<void>((resolve) => requestAnimationFrame(() => resolve()))

/** What an animation may change without moving anything. */
const IN_PLACE =
  /^(offset|computedOffset|easing|composite|opacity|color|.*Color|.*Shadow|filter|backdropFilter|background.*|visibility|.*Radius|clipPath|mask.*|fill|stroke.*|cursor|content)$/
const SOON = 3000
/** Milliseconds within which an animation that moves a node is waited for to its end. */

/** The animations that run on a node or on what holds it. */
export function animations(node: Element): Animation[] {
  return document.getAnimations().filter((animation) => {
    const target = (animation.effect as KeyframeEffect | null)?.target
    return animation.playState === 'running' && target instanceof Element && target.contains(node)
  })
}

/** Whether an animation moves what it is of, and comes to its end soon: nothing is pressed before. */
export function comesToRest(animation: Animation): boolean {
  const effect = animation.effect as KeyframeEffect
  const left = Number(effect.getComputedTiming().endTime) - Number(animation.currentTime ?? 0)
  if (!(left > 0 && left <= SOON * Math.max(animation.playbackRate, 0))) return false
  const names = effect.getKeyframes().flatMap((frame) => Object.keys(frame))
  return !names.every((name) => IN_PLACE.test(name))
}

/** Whether a node, or what holds it, is one that may have moved by itself a moment ago. */
export function mayMove(node: Element): boolean {
  for (let at: Element | null = node; at; at = parentOf(at)) {
    const { animationName, transitionDuration, transitionProperty } = getComputedStyle(at)
    if (animationName !== 'none') return true
    const lasts = transitionDuration.split(',').some((one) => parseFloat(one) > 0)
    if (lasts && transitionProperty.split(', ').some((name) => !IN_PLACE.test(camel(name)))) return true
  }
  return false
}

const camel = (name: string) => name.replace(/-(\w)/g, (_, letter: string) => letter.toUpperCase())

/** Frames to watch before a node counts as still: more while an animation of it is running. */
export function restless(running: Animation[]): number {
  if (running.length) return 3 // an animation that has just begun does not move at first
  // What opens begins to move a frame or two after it is there.
  return unchanged() < 150 ? 3 : 0
}
