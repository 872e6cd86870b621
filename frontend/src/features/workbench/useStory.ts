import { computed } from 'vue'
import type { Ref } from 'vue'

import type { Catalogue, Step, Test } from '@/api/client'

import type { Edits } from '@/features/editing/useEdits'

/** What is dragged from the list of sentences into the story. */
export interface Dropped {
  action?: string
  flow?: string
  takes?: { name: string; default: string }[]
}
/** The kind of data by which a drop is known. */
export const SENTENCE = 'application/x-lantern-sentence'

/** Choosing sentences and changing the story with them. */
export function useStory(
  test: () => Test,
  catalogue: () => Catalogue,
  edits: () => Edits,
  chosen: Ref<string[]>,
) {
  const byId = computed(() => new Map(test().steps.map((step) => [step.id, step])))
  const order = computed(() => test().steps.map((step) => step.id))

  /** A sentence with all that is inside it. */
  function branch(id: string): string[] {
    const place = order.value.indexOf(id)
    const depth = byId.value.get(id)?.depth ?? 0
    const rest = test().steps.slice(place + 1)
    const end = rest.findIndex((step) => step.depth <= depth)
    return [id, ...rest.slice(0, end < 0 ? rest.length : end).map((step) => step.id)]
  }
  const meant = () => {
    const all = new Set(chosen.value.flatMap(branch))
    return order.value.filter((id) => all.has(id))
  }

  function choose(id: string, event: MouseEvent | KeyboardEvent) {
    if (event.shiftKey && chosen.value[0]) {
      const [a, b] = [order.value.indexOf(chosen.value[0]), order.value.indexOf(id)].sort((x, y) => x - y)
      chosen.value = order.value.slice(a, b! + 1)
    } else if (event.ctrlKey || event.metaKey) {
      chosen.value = chosen.value.includes(id)
        ? chosen.value.filter((one) => one !== id)
        : [...chosen.value, id]
    } else chosen.value = [id]
  }

  function shift(by: 1 | -1) {
    const steps = meant()
    if (!steps.length) return
    const rest = order.value.filter((id) => !steps.includes(id))
    const edge = by === 1 ? order.value.indexOf(steps.at(-1)!) + 1 : order.value.indexOf(steps[0]!) - 1
    if (edge < 0 || edge >= order.value.length) return
    const anchor = rest.indexOf(order.value[edge]!)
    void edits().edit({ do: 'move', steps, after: by === 1 ? rest[anchor]! : (rest[anchor - 1] ?? '') })
  }

  /** Into the block before the sentences, or out of the one they are in. */
  const level = (by: 1 | -1) =>
    chosen.value.length && edits().edit({ do: 'shift', steps: [...chosen.value], by })

  /** Something from the list of sentences, dropped behind one: an action, a block or a flow. */
  function dropNew(given: string, after: string) {
    const { action, flow, takes } = JSON.parse(given) as Dropped
    if (flow) call(flow, takes ?? [], after)
    else if (action) add(action, after)
  }
  function drop(dragged: string, onto: string) {
    if (dragged && dragged !== onto) void edits().edit({ do: 'move', steps: [dragged], after: onto })
  }

  const copy = () => chosen.value.length && edits().edit({ do: 'copy', steps: chosen.value })
  const remove = () => chosen.value.length && edits().edit({ do: 'remove', steps: chosen.value })
  function toggle() {
    const on = !chosen.value.some((id) => byId.value.get(id)?.enabled)
    if (chosen.value.length) void edits().edit({ do: 'switch', steps: [...chosen.value], on })
  }

  /** The sentence that a new one comes behind: the one named, else the chosen, else the last. */
  const nearTo = (after: string) =>
    byId.value.get(after || (chosen.value.at(-1) ?? '')) ?? test().steps.at(-1)

  /** A new sentence of an action; its element and page are those of the sentence it comes behind. */
  function fresh(name: string, after = ''): { step: object; near: Step | undefined } | null {
    const action = catalogue().actions.find((one) => one.name === name)
    if (!action) return null
    const near = nearTo(after)
    const fits = test().elements.filter((one) => !action.kinds?.length || action.kinds.includes(one.kind))
    const element = action.kinds === null ? '' : (fits.find((one) => one.id === near?.element) ?? fits[0])?.id
    const inputs = Object.fromEntries(
      action.inputs.filter((input) => !input.optional).map((input) => [input.name, input.default]),
    )
    const step = {
      action: name,
      element: element ?? '',
      onto: action.onto ? (test().elements.find((one) => one.id !== element)?.id ?? '') : '',
      inputs,
      page: action.kinds === null ? '' : (near?.page ?? ''),
    }
    return { step, near }
  }

  function add(name: string, after = '') {
    const made = fresh(name, after)
    if (made) void edits().edit({ do: 'insert', steps: [made.step], after: made.near?.id ?? null })
  }

  /** A block around the chosen sentences; without any an empty one. */
  function wrap(name: string) {
    const made = fresh(name)
    if (!made) return
    const steps = meant()
    if (steps.length) void edits().edit({ do: 'wrap', steps, block: made.step })
    else add(name)
  }

  function call(flow: string, takes: { name: string; default: string }[], after = '') {
    const near = nearTo(after)
    const inputs = Object.fromEntries(takes.map((one) => [one.name, one.default]))
    const step = { action: 'flow', flow, inputs, page: near?.page ?? '' }
    void edits().edit({ do: 'insert', steps: [step], after: near?.id ?? null })
  }

  return {
    byId,
    order,
    meant,
    choose,
    shift,
    level,
    drop,
    dropNew,
    copy,
    remove,
    toggle,
    add,
    wrap,
    call,
  }
}
