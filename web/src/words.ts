const counts = new Intl.NumberFormat('en')
/** A count as people read it: 1,964. */
export const formatCount = (count: number) => counts.format(count)

/** A moment as lists show it: 23 Nov 2026, 14:05. */
export function formatDateTime(iso: string): string {
  return new Date(iso).toLocaleString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  })
}

/** When something was left: the time of today, else the day. */
export function formatRecent(at: Date): string {
  return at.toDateString() === new Date().toDateString()
    ? at.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })
    : at.toLocaleDateString('en-GB', { day: 'numeric', month: 'short' })
}

/** Several things in a sentence: "a, b and c". */
export const ofList = (words: readonly string[]) =>
  new Intl.ListFormat('en-GB', { style: 'long', type: 'conjunction' }).format(words)
