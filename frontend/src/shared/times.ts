/** Times as people say them. */
export function ago(iso: string | null | undefined, now = Date.now()): string {
  if (!iso) return ''
  const seconds = Math.round((now - Date.parse(iso)) / 1000)
  if (seconds < 10) return 'just now'
  if (seconds < 60) return `${seconds} s ago`
  if (seconds < 3600) return `${Math.floor(seconds / 60)} min ago`
  if (seconds < 86_400) return `${Math.floor(seconds / 3600)} h ago`
  return new Date(iso).toLocaleDateString(undefined, { day: 'numeric', month: 'short', year: 'numeric' })
}

export function exact(iso: string | null | undefined): string {
  return iso ? new Date(iso).toLocaleString() : ''
}

export function seconds(value: number | null | undefined): string {
  if (value === null || value === undefined) return ''
  if (value < 60) return `${value.toFixed(1)} s`
  if (value < 3600) return `${Math.floor(value / 60)} min ${Math.round(value % 60)} s`
  return `${Math.floor(value / 3600)} h ${Math.round((value % 3600) / 60)} min`
}

export function between(start: string | null | undefined, end: string | null | undefined): number | null {
  return start && end ? (Date.parse(end) - Date.parse(start)) / 1000 : null
}

/** A time of day: `03:00`. */
export const clock = (iso: string | Date) =>
  new Date(iso).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
