/** Whether a document is still being put together, so that what is in it moves or does not act yet. */

/** Milliseconds after which a document counts as made, whatever still loads. */
const LONGEST = 5000

/** Its scripts that come behind it have not run, or style sheets that it asks for are not there. */
export function beingMade(): boolean {
  if (performance.now() > LONGEST) return false
  const [made] = performance.getEntriesByType('navigation') as PerformanceNavigationTiming[]
  if (made && !made.domContentLoadedEventEnd) return true
  if (document.readyState === 'complete') return false
  return [...document.querySelectorAll<HTMLLinkElement>('link[rel~="stylesheet" i]')].some(
    (link) => !link.disabled && !link.sheet && matchMedia(link.media || 'all').matches,
  )
}
