import type { Document } from '../../api/client'

/** What of a view decides which lines there are, and in which order, in a form that can be compared. */
export function linesDecidedBy(doc: Document): string {
  const { records, filter, groups, across, compare, sort, calculated, buckets, linked, beside } = doc
  return JSON.stringify([records, filter, groups, across, compare, sort, calculated, buckets, linked, beside])
}
