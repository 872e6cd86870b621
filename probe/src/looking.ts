/** What an exported script asks of a page: all that Lantern's own player asks, answered alike. */
import { aim as aimAtNode, centre as centreNode } from './aiming'
import type { Aimed } from './aiming'
import type { Facts } from './facts'
import { candidatesFor } from './lookup'
import type { Clue } from './lookup'
import { handleOf } from './nodes'
import { chose as choseAt, read as readOf, toChoose, toType } from './reading'

/** The size of the window, how many frames are in it, and the nodes that could match with their facts. */
export function look(selector: string, clues: Clue[]): [number[], number, [Element, Facts][]] {
  const { nodes, found } = candidatesFor(selector, clues)
  const frames = document.querySelectorAll('iframe,frame').length
  return [[innerWidth, innerHeight], frames, nodes.map((node, place) => [node, found[place]!])]
}

export const aim = (node: Element, at: [number, number] | null): Promise<Aimed> => aimAtNode(node, at)
export const centre = (node: Element): boolean => centreNode(handleOf(node))
export const read = (node: Element, property: string): string | null => readOf(handleOf(node), property)
export const type = (node: Element, text: string, append: boolean): string =>
  toType(handleOf(node), text, append)
export const choose = (node: Element, option: string): object => toChoose(handleOf(node), option)
export const chose = (node: Element): boolean => choseAt(handleOf(node))
export { scrollOn } from './scrolling'
