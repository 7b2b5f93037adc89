import type { Document } from '../api/client'

/** What is kept of a view when its records are looked over: which they are, and nothing of how they are shown. */
export function selectionOf(view: Document): Document {
  const { gavrik, records, calculated, buckets, linked, beside, filter } = view
  return { gavrik, records, calculated, buckets, linked, beside, filter, columns: [] }
}

/** The selection that the address was opened with, if it is one of these records. */
export function selectionHere(records: string): Document {
  const kept = (history.state as { selection?: unknown } | null)?.selection
  if (typeof kept === 'string') {
    const view = JSON.parse(kept) as Document // this screen has written it
    if (view.records === records) return view
  }
  return { gavrik: 1, records, columns: [] }
}

/** Keeps a selection with the address, so that loading the page again finds it. */
export function keepSelection(view: Document) {
  history.replaceState({ ...history.state, selection: JSON.stringify(view) }, '')
}
