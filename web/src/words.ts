/** A count as people read it: 1,964. */
export function n(count: number): string {
  return count.toLocaleString('en')
}

/** The words of a search, in small letters. */
export function searchWords(typed: string): string[] {
  return typed.trim().toLowerCase().split(/\s+/).filter(Boolean)
}

/** What a field's type is called on every screen. */
export function typeWord(type: string): string {
  return { whole: 'number', decimal: 'number', datetime: 'date and time', yesno: 'yes or no' }[type] ?? type
}

/** A moment as lists show it: 23 Nov 2026, 14:05. */
export function moment(iso: string): string {
  return new Date(iso).toLocaleString('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' })
}
