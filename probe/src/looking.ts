/** What an exported script asks of a page: its nodes with their facts, as Lantern sees them. */
import { besideBy } from './around'
import { factsOf, newPass } from './facts'
import type { Facts } from './facts'
import { select } from './nodes'

type Side = 'right of' | 'below'

/** The nodes that a selector finds, in shadow roots too, each with its facts in document order. */
export function look(selector: string, sides: Side[]): [Element, Facts][] {
  const pass = newPass()
  return [...select(selector)].map((node, order) => {
    const facts = factsOf(node, order, pass)
    for (const side of sides) facts.attributes[side] = besideBy(node, side)
    return [node, facts]
  })
}
