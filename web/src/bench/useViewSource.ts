import { useQueryClient } from '@tanstack/vue-query'
import { ref, shallowRef } from 'vue'
import type { Document, RecordSet, View } from '../api/client'
import { queries } from '../api/queries'
import { wordsOf } from '../api/problem'
import { NotShared, useSource, type Named, type Source } from '../work/useSource'
import { newDocument } from './document'

/** What a bench starts from. */
export interface ViewSource extends Source<Document> {
  set: RecordSet
}

/** Finds what the address of a bench leads to: a state, or the view as saved, or a new one of a record set. */
export function useViewSource() {
  const client = useQueryClient()
  const source = useSource<Document>()
  const opened = shallowRef<ViewSource | null>(null)
  /** The view, if its totals alone are shared with the reader. */
  const totals = shallowRef<View | null>(null)
  const trouble = ref('')
  /** Where the state that was linked to can be opened, if its view is not shared with the reader. */
  const elsewhere = ref('')

  async function open(at: Named, setKey: string, blank: boolean) {
    try {
      const catalog = client.fetchQuery({ ...queries.catalog(), staleTime: 60_000 })
      let set: RecordSet | undefined
      const found = async (records: string) =>
        (set ??= (await catalog).sets.find((s) => s.key === records)) ??
        Promise.reject(
          new Error(`The record set “${records}” is not there. It may have been renamed in the database.`),
        )
      const from = await source.open(at, async (saved) => {
        if (saved && 'parts' in saved.document)
          throw new Error(`“${saved.name}” is a board. Open it from the list of boards.`)
        if (saved?.least) return saved.document
        const there = await found(saved?.document.records ?? setKey)
        if (saved && (at.from || !blank)) return saved.document
        return blank ? { gavrik: 1, records: there.key, columns: [] } : newDocument(there)
      })
      if (from.saved?.least) totals.value = from.saved
      else if (from.template?.least) totals.value = from.template
      else opened.value = { ...from, set: await found(from.saved?.document.records ?? setKey) }
    } catch (error) {
      if (error instanceof NotShared)
        elsewhere.value = `/new/${(error.document as Document).records}?at=${at.state}`
      else trouble.value = wordsOf(error)
    }
  }

  return { opened, totals, trouble, elsewhere, open }
}
