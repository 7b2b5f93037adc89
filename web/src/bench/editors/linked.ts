import type { Condition, Field, Linked, LinkedValue } from '../../api/client'

/** The parts of a condition that all hold, each by itself. */
export const partsOf = (c: Condition | undefined): Condition[] => c?.all ?? (c ? [c] : [])

/** Parts as one condition; none for none. */
export const joined = (parts: readonly Condition[]): Condition | undefined =>
  parts.length > 1 ? { all: [...parts] } : parts[0]

/** What a name begins with that a value gets by itself. */
const beginnings: Record<LinkedValue['take'], string> = {
  count: 'Number of',
  any: 'Any',
  sum: 'Total',
  average: 'Average',
  smallest: 'Smallest',
  largest: 'Largest',
  distinct: 'Number of different',
  latest: 'Latest',
  earliest: 'Earliest',
  joined: 'All',
}

/** A name for a linked value that its author has not named. */
export function nameOfTaken(take: LinkedValue['take'], field: Field | undefined, many: string): string {
  if (take === 'count' || take === 'any' || !field) return `${beginnings[take]} ${many}`
  const name = field.label.charAt(0).toLowerCase() + field.label.slice(1)
  return `${beginnings[take]} ${name} of ${many}`
}

/** The first field that a condition tests. */
function fieldOf(c: Condition | undefined): string | undefined {
  return c?.field ?? partsOf(c).map(fieldOf).find(Boolean)
}

/** The value that a condition on linked records looks at, without its key and label. */
export function valueOf(linked: Linked): Omit<LinkedValue, 'key' | 'label'> {
  const { records, by, where, test } = linked
  const of = { records, by, where }
  if (test === 'latest' || test === 'earliest')
    return { ...of, take: test, field: fieldOf(linked.meets), date: linked.date }
  if (test === 'sum' || test === 'average') return { ...of, take: test, field: linked.field }
  return { ...of, take: 'count' }
}
