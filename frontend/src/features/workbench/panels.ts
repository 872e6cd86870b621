import type { Component } from 'vue'

import type { Catalogue, Test } from '@/api/client'
import Comments from '@/features/comments/Comments.vue'
import ElementEditor from '@/features/pages/ElementEditor.vue'
import RehearsalPanel from '@/features/rehearsing/RehearsalPanel.vue'
import RowsGrid from '@/features/tables/RowsGrid.vue'
import type { Box } from '@/features/live/useLive'
import type { Part } from '@/features/rehearsing/parts'
import { complain } from '@/shared/notes'

import CallingPanel from './CallingPanel.vue'
import CheckPanel from './CheckPanel.vue'
import ConstantsPanel from './ConstantsPanel.vue'
import FilesPanel from './FilesPanel.vue'
import LastRun from './LastRun.vue'
import SettingsPanel from './SettingsPanel.vue'
import ShapePanel from './ShapePanel.vue'
import TextPanel from './TextPanel.vue'
import VersionsPanel from './VersionsPanel.vue'
import type { Tab } from './drawer'
import type { Workbench } from './useWorkbench'

/** A panel of the drawer: when it is there, what it is called, and what its component is given. */
interface Panel {
  tab: Tab
  title: (test: Test) => string
  component: Component
  there?: (bench: Workbench, test: Test) => boolean
  given: (bench: Workbench, test: Test, catalogue: Catalogue) => Record<string, unknown>
}

/** What most panels need. */
const usual = (bench: Workbench, test: Test) => ({ test, edits: bench.edits, fixed: bench.fixed.value })
const chooses = (bench: Workbench) => ({ onChoose: (step: string) => (bench.chosen.value = [step]) })

/** All panels of the drawer, in their order: a new one is an entry here. */
export const PANELS: Panel[] = [
  {
    tab: 'calling',
    title: () => 'Inputs and outputs',
    component: CallingPanel,
    there: (_, test) => test.kind === 'flow',
    given: usual,
  },
  {
    tab: 'rows',
    title: (test) => `Rows (${test.row_count})`,
    component: RowsGrid,
    there: (_, test) => test.kind !== 'flow',
    given: (bench, test) => ({
      ...usual(bench, test),
      onCheck: () => bench.running.checkData('all').catch(complain),
    }),
  },
  {
    tab: 'values',
    title: () => 'Constants',
    component: ConstantsPanel,
    given: (bench, test, catalogue) => ({ ...usual(bench, test), ...chooses(bench), catalogue }),
  },
  {
    tab: 'files',
    title: () => 'Files',
    component: FilesPanel,
    given: (bench, test) => ({ test: test.id, fixed: bench.fixed.value }),
  },
  {
    tab: 'rehearsal',
    title: () => 'Rehearsal',
    component: RehearsalPanel,
    there: (bench) => !bench.fixed.value,
    given: (bench, test, catalogue) => ({
      test,
      catalogue,
      ...chooses(bench),
      edits: bench.edits,
      rehearsing: bench.rehearsing,
      breakpoints: bench.breakpoints,
      part: bench.part.value,
      pointed: bench.pointed.value,
      recording: bench.recording.value,
      onPart: (part: Part) => (bench.part.value = part),
      onLit: (boxes: Box[]) => bench.stage.value?.lit(boxes),
      onEdit: bench.element.edit,
      onPoint: bench.pointForSpot,
      onRecord: (on: boolean) => bench.record(on),
      onDefect: () => (bench.raising.value = true),
    }),
  },
  { tab: 'run', title: () => 'Last run', component: LastRun, given: () => ({}) },
  {
    tab: 'settings',
    title: () => 'Limits',
    component: SettingsPanel,
    given: (bench, test) => ({ ...usual(bench, test), chosen: bench.chosen.value }),
  },
  {
    tab: 'shape',
    title: () => 'Shape',
    component: ShapePanel,
    given: (bench, test) => ({
      test,
      chosen: bench.chosen.value,
      onChoose: (steps: string[]) => (bench.chosen.value = steps),
    }),
  },
  {
    tab: 'comments',
    title: () => 'Comments',
    component: Comments,
    given: (_, test) => ({ place: 'test', of: test.id, quiet: true, class: 'h-full overflow-auto p-3' }),
  },
  {
    tab: 'text',
    title: () => 'Text',
    component: TextPanel,
    given: (bench, test, catalogue) => ({ ...usual(bench, test), ...chooses(bench), catalogue }),
  },
  {
    tab: 'versions',
    title: () => 'Versions',
    component: VersionsPanel,
    given: (bench, test) => ({
      ...usual(bench, test),
      ...chooses(bench),
      onRun: (version: number) => bench.running.start({ kind: 'run', rows: 'all', version }),
    }),
  },
  {
    tab: 'element',
    title: () => 'Element',
    component: ElementEditor,
    there: (bench) => bench.element.id.value !== '',
    given: (bench, test) => ({
      id: bench.element.id.value,
      key: bench.element.id.value,
      live: !bench.fixed.value,
      within: test.id,
      verdict: bench.element.verdict.value,
      repicked: bench.element.repicked.value,
      onTry: (element: Record<string, unknown>) => bench.send({ type: 'try', element }),
      onRepick: () => {
        bench.still.saved = 0
        bench.element.repicking.value = true
      },
      onGone: () => {
        bench.element.id.value = ''
        bench.drawer.back()
      },
    }),
  },
  {
    tab: 'check',
    title: () => 'Check',
    component: CheckPanel,
    there: (bench) => bench.checks.picked.value !== null,
    given: (bench) => ({
      picked: bench.checks.picked.value,
      tried: bench.checks.tried.value,
      onTry: (checks: never) => bench.send({ type: 'try checks', checks }),
      onAdd: (checks: never, as: never) => bench.stage.value?.addChecks(checks, as),
      onClose: bench.checks.end,
    }),
  },
]
