const counts = new Intl.NumberFormat('en')
/** A count as people read it: 1,964. */
export const formatCount = (count: number) => counts.format(count)

const abouts = new Intl.NumberFormat('en', { maximumSignificantDigits: 2 })
/** About how many there are: about 20,000,000. */
export const formatAbout = (count: number) => `about ${abouts.format(count)}`

/** How many records a set has, as far as that is known. */
export const formatSize = (of: { count: number; about?: boolean }) =>
  of.count < 0 ? '' : of.about ? formatAbout(of.count) : formatCount(of.count)

/** A while in words that fit behind a sentence: 4 s, 2 min 10 s. */
export function formatSeconds(seconds: number): string {
  const whole = Math.round(seconds)
  const left = whole % 60
  return whole < 60 ? `${whole} s` : `${Math.floor(whole / 60)} min${left ? ` ${left} s` : ''}`
}

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
