import type { Shapes } from '@/api/client'

/** Whose clues a merged element goes by from now on, and why. */
export function keptClues({ kept, share, other_share: other }: Shapes['MergedOut']): string {
  const of = (part: number) => `${Math.round(part * 100)}%`
  const why =
    share !== null && other !== null
      ? `: they survive ${of(share)} of likely changes, the others ${of(other)}`
      : ''
  return `The clues of “${kept}” were kept${why}.`
}
