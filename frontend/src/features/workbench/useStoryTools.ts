import { computed } from 'vue'
import type { Ref } from 'vue'

import type { Edits } from '@/features/editing/useEdits'

import type { useStory } from './useStory'

/** What the acts lead to beside changing the story itself. */
interface Does {
  canProve: () => boolean
  canBeBlind: () => boolean
  showBlind: () => void
  edits: () => Edits
  note: (step: string) => void
  split: (step: string) => void
  makeFlow: (steps: string[]) => void
  playTo: (step: string) => void
  prove: () => void
  recordFrom: (step: string) => void
  recordInPlace: (steps: string[]) => void
  rehearseFrom: (step: string) => void
  breakAt: (steps: string[]) => void
}

/** How many sentences are chosen: for how many an act stands in words above the story. */
type Chosen = 'none' | 'one' | 'several'

/**
 * Something to do with the story: `keys` does it too, `on` tells whether it can be done now, `short`
 * is what it is called where there is little room.
 */
export interface Act {
  label: string
  short?: string
  title: string
  keys?: string
  on: boolean
  act: () => unknown
  head?: Chosen
}

/** All that can be done with the story, in groups; the few that fit what is chosen are for its head. */
export function useStoryTools(chosen: Ref<string[]>, story: ReturnType<typeof useStory>, does: Does) {
  const many = computed<Chosen>(() => (['none', 'one'] as const)[chosen.value.length] ?? 'several')
  const groups = computed<Act[][]>(() => {
    const some = chosen.value.length > 0
    const one = chosen.value.length === 1 ? chosen.value[0]! : ''
    const onOne = (act: (id: string) => void) => ({ on: one !== '', act: () => act(one) })
    return [
      [
        {
          label: 'Play up to here',
          short: 'Play to here',
          title: 'Play up to this sentence on the stage',
          head: 'one',
          ...onOne(does.playTo),
        },
        {
          label: 'Rehearse from here',
          title: 'Go on from this sentence with the stage as it is',
          keys: 'H',
          ...onOne(does.rehearseFrom),
        },
        {
          label: 'Breakpoint',
          title: 'Let your rehearsals stop before these sentences, or no longer',
          keys: 'B',
          on: some,
          act: () => does.breakAt([...chosen.value]),
        },
        {
          label: 'Record on from here',
          short: 'Record on',
          title: 'Play up to this sentence on the stage, then record on behind it',
          head: 'one',
          ...onOne(does.recordFrom),
        },
        {
          label: 'Record in place of these',
          title: 'Take these sentences out, play up to them, and record what is to stand there instead',
          on: some,
          act: () => does.recordInPlace([...chosen.value]),
        },
        {
          label: 'Prove it',
          title: 'Play it once on a fresh stage and compare every page with what the recording saw',
          head: 'none',
          on: does.canProve(),
          act: does.prove,
        },
        {
          label: 'Blind spots',
          title: 'What may change on its pages without any of its checks noticing',
          on: does.canBeBlind(),
          act: does.showBlind,
        },
      ],
      [
        {
          label: 'Title and comment',
          title: 'Give the sentence a title of your own, or a comment',
          ...onOne(does.note),
        },
        {
          label: 'Switch on or off',
          title: 'What is switched off is passed over',
          on: some,
          act: story.toggle,
        },
        { label: 'Copy', title: 'Copy the chosen sentences', keys: 'Ctrl D', on: some, act: story.copy },
        { label: 'Delete', title: 'Delete the chosen sentences', keys: 'Del', on: some, act: story.remove },
      ],
      [
        {
          label: 'Move up',
          title: 'Before the sentence above',
          keys: 'Alt ↑',
          on: some,
          act: () => story.shift(-1),
        },
        {
          label: 'Move down',
          title: 'Behind the sentence below',
          keys: 'Alt ↓',
          on: some,
          act: () => story.shift(1),
        },
        {
          label: 'Into the block above',
          title: 'Make them part of the block above them',
          keys: 'Alt →',
          on: some,
          act: () => story.level(1),
        },
        {
          label: 'Out of the block',
          title: 'Take them out of the block that they are in',
          keys: 'Alt ←',
          on: some,
          act: () => story.level(-1),
        },
      ],
      [
        {
          label: 'Make a flow of these',
          short: 'Make a flow',
          title: 'Make a flow of these sentences, to be used by other tests as well',
          head: 'several',
          on: some,
          act: () => does.makeFlow(story.meant()),
        },
        {
          label: 'New test from the part up to here',
          title: 'A test of its own that ends with this sentence',
          ...onOne(does.split),
        },
      ],
    ]
  })
  const head = computed(() => groups.value.flat().filter((one) => one.head === many.value))
  return { groups, head, many }
}
