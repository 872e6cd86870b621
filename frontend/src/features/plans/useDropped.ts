import type { Shapes } from '@/api/client'

type Entry = Shapes['CalendarEntry']

/** The entry that was carried here, by what its drag said of it. */
export function carried(event: DragEvent, entries: Entry[]): Entry | undefined {
  const key = event.dataTransfer?.getData('text/plain') ?? ''
  return entries.find((one) => `${one.schedule} ${one.begin}` === key)
}
