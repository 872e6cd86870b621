import {
  ArrowDown,
  ArrowUp,
  Circle,
  Copy,
  Indent as IntoBlock,
  Outdent as OutOfBlock,
  Package,
  EyeOff,
  MessageSquareText,
  Play,
  Redo2,
  Replace,
  ShieldCheck,
  Split,
  Trash2,
  Undo2,
} from '@lucide/vue'
import { computed } from 'vue'
import type { Ref } from 'vue'

import type { Edits } from '@/features/editing/useEdits'
import type { useStory } from './useStory'

/** What the tools lead to beside changing the story itself. */
interface Does {
  canProve: () => boolean
  edits: () => Edits
  note: (step: string) => void
  split: (step: string) => void
  makeFlow: (steps: string[]) => void
  playTo: (step: string) => void
  prove: () => void
  recordFrom: (step: string) => void
  recordInPlace: (steps: string[]) => void
}

/** The tools above the story, in groups; `on` tells whether one can be used now. */
export function useStoryTools(chosen: Ref<string[]>, story: ReturnType<typeof useStory>, does: Does) {
  return computed(() => {
    const edits = does.edits()
    const some = chosen.value.length > 0
    const one = chosen.value.length === 1 ? chosen.value[0]! : ''
    const onOne = (act: (id: string) => void) => ({ on: one !== '', act: () => act(one) })
    return [
      [
        {
          icon: Undo2,
          label: 'Undo',
          title: edits.toUndo.value ? `Undo (Ctrl Z): ${edits.toUndo.value}` : 'Undo (Ctrl Z)',
          on: edits.toUndo.value !== '',
          act: edits.undo,
        },
        {
          icon: Redo2,
          label: 'Redo',
          title: edits.toRedo.value ? `Redo (Ctrl Y): ${edits.toRedo.value}` : 'Redo (Ctrl Y)',
          on: edits.toRedo.value !== '',
          act: edits.redo,
        },
      ],
      [
        { icon: ArrowUp, label: 'Move up', title: 'Move up (Alt ↑)', on: some, act: () => story.shift(-1) },
        {
          icon: ArrowDown,
          label: 'Move down',
          title: 'Move down (Alt ↓)',
          on: some,
          act: () => story.shift(1),
        },
        { icon: Copy, label: 'Copy', title: 'Copy (Ctrl D)', on: some, act: story.copy },
        {
          icon: IntoBlock,
          label: 'Into the block above',
          title: 'Into the block above (Alt →)',
          on: some,
          act: () => story.level(1),
        },
        {
          icon: OutOfBlock,
          label: 'Out of the block',
          title: 'Out of the block (Alt ←)',
          on: some,
          act: () => story.level(-1),
        },
        { icon: EyeOff, label: 'Switch on or off', on: some, act: story.toggle },
        { icon: Split, label: 'New test from the part up to here', ...onOne(does.split) },
        { icon: Trash2, label: 'Delete', title: 'Delete (Del)', on: some, act: story.remove },
      ],
      [
        {
          icon: Package,
          label: 'Make a flow of these',
          title: 'Make a flow of these sentences, to be used by other tests as well',
          on: some,
          act: () => does.makeFlow(story.meant()),
        },
        {
          icon: MessageSquareText,
          label: 'Title and comment',
          title: 'Title and comment of the sentence',
          ...onOne(does.note),
        },
        {
          icon: Play,
          label: 'Play up to here',
          title: 'Play up to this sentence on the stage',
          ...onOne(does.playTo),
        },
        {
          icon: ShieldCheck,
          label: 'Prove it',
          title: 'Play it once on a fresh stage and compare every page with what the recording saw',
          on: does.canProve(),
          act: does.prove,
        },
        {
          icon: Circle,
          label: 'Record on from here',
          title: 'Play up to this sentence on the stage, then record on behind it',
          ...onOne(does.recordFrom),
        },
        {
          icon: Replace,
          label: 'Record in place of these',
          title: 'Take these sentences out, play up to them, and record what is to stand there instead',
          on: some,
          act: () => does.recordInPlace([...chosen.value]),
        },
      ],
    ]
  })
}
