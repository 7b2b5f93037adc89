/** What answers in place of the records as they are: a kept result, or the totals alone of a saved view. */
export interface Frozen {
  kept?: string
  totals?: string
}

/** Headers that ask it. */
export function askFrozen(of?: Frozen) {
  if (of?.kept) return { 'Gavrik-Kept': of.kept }
  return of?.totals ? { 'Gavrik-Totals': of.totals } : undefined
}
