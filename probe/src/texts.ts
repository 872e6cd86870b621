/** Texts as people read them. */

const LONGEST = 400

/** A text with runs of white space as one blank, and not longer than is kept of any fact. */
export function tidy(text: string | null | undefined): string {
  return (text ?? '')
    .slice(0, LONGEST * 8)
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, LONGEST)
}
