/** What the drawer below the stage can show. */
export type Tab =
  | 'rows'
  | 'shape'
  | 'text'
  | 'versions'
  | 'values'
  | 'calling'
  | 'run'
  | 'settings'
  | 'check'
  | 'element'
  | 'files'

/** Drawers that want more room than others. */
export const HEIGHTS: Partial<Record<Tab, string>> = {
  element: 'h-[17rem]',
  text: 'h-[24rem]',
  shape: 'h-[24rem]',
}
