/** A text in three: what it has in common with another at its beginning and end, and what differs. */
export interface Apart {
  start: string
  middle: string
  end: string
}

/** What differs in a text from another, in whole words; the blanks between them stay where they are. */
export function apart(text: string, other: string): Apart {
  const words = (all: string) => all.match(/\S+\s*|\s+/g) ?? []
  const [mine, theirs] = [words(text), words(other)]
  const same = (one: string | undefined, two: string | undefined) =>
    one !== undefined && two !== undefined && one.trim() === two.trim()
  let before = 0
  while (same(mine[before], theirs[before])) before += 1
  let behind = 0
  while (
    behind < Math.min(mine.length, theirs.length) - before &&
    same(mine[mine.length - 1 - behind], theirs[theirs.length - 1 - behind])
  )
    behind += 1
  return {
    start: mine.slice(0, before).join(''),
    middle: mine.slice(before, mine.length - behind).join(''),
    end: mine.slice(mine.length - behind).join(''),
  }
}
