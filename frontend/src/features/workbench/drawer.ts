/** What the drawer below the stage can show. */
export type Tab =
  | 'rows'
  | 'shape'
  | 'text'
  | 'versions'
  | 'comments'
  | 'values'
  | 'calling'
  | 'run'
  | 'settings'
  | 'check'
  | 'element'
  | 'files'
  | 'rehearsal'

/** Pixels of a drawer as long as nobody draws it to another height. */
export const USUAL_HEIGHT = 216
/** Drawers that want more room than others. */
export const HEIGHTS: Partial<Record<Tab, number>> = { element: 272, text: 384, shape: 384, rehearsal: 248 }
