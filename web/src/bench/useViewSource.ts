import { useQueryClient } from '@tanstack/vue-query'
import { ref, shallowRef } from 'vue'
import { api, unwrap, type Document, type Draft, type RecordSet, type View } from '../api/client'
import { queries } from '../api/queries'
import { Problem, wordsOf } from '../api/problem'
import { newDocument } from './document'
import { freshKey, type Step } from './useHistory'
import { useUnsent, type Unsent } from './unsaved/useUnsent'

/** What a bench starts from. */
export interface ViewSource {
  set: RecordSet
  saved: View | null
  start: Step
  /** The draft that is gone on with; a fresh one of revision 0 if there is none. */
  draft: { id: string; revision: number; base: number }
  /** Unsaved work of another time on the same view; it is never opened unasked. */
  earlier: Earlier | null
  /** The template that is begun from. */
  template: View | null
  /** Who made the state, if it came by a link from somebody else. */
  by: string
}

/** Unsaved work of another time. */
export interface Earlier {
  draft: string
  state: string
  /** When it was made, in milliseconds since 1970. */
  at: number
}

/** Finds what an address leads to: a state, or the view as saved, or a new one. */
export function useViewSource() {
  const client = useQueryClient()
  const unsent = useUnsent()
  const opened = shallowRef<ViewSource | null>(null)
  const trouble = ref('')
  /** The view is not shared with the reader, but the state that was linked to can be opened by itself. */
  const elsewhere = ref('')

  const view = (key: string) =>
    client.fetchQuery({
      queryKey: ['view', key],
      queryFn: () =>
        unwrap(api.GET('/api/views/{key}', { params: { path: { key }, query: { open: true } } })),
      staleTime: 0,
    })
  async function drafts(place: string): Promise<Draft[]> {
    return (await unwrap(api.GET('/api/drafts', { params: { query: { place } } }))).drafts
  }

  async function open(
    place: string,
    viewKey: string,
    setKey: string,
    state: string,
    from: string,
    blank: boolean,
  ) {
    try {
      const catalog = client.fetchQuery({ ...queries.catalog(), staleTime: 60_000 })
      const mine = drafts(place)
      const linked = state ? linkedTo(state, await mine) : null
      let saved: View | null = null
      try {
        saved = viewKey ? await view(viewKey) : null
      } catch (error) {
        const at = await linked
        if (!(error instanceof Problem) || error.status !== 404 || !at) throw error
        elsewhere.value = `/new/${at.document.records}?at=${state}`
        return
      }
      const { sets } = await catalog
      const records = saved?.document.records ?? setKey
      const set = sets.find((s) => s.key === records)
      if (!set) {
        trouble.value = `The record set “${records}” is not there. It may have been renamed in the database.`
        return
      }
      const template = from ? await view(from) : null
      opened.value = {
        set,
        saved,
        template,
        ...begin(set, saved, await linked, template, blank),
        earlier: state ? null : earlierOf(unsent.newestAt(place), (await mine)[0]),
      }
    } catch (error) {
      trouble.value = wordsOf(error)
    }
  }

  interface Linked {
    state: string
    document: Document
    by: string
    draft?: ViewSource['draft']
  }

  /** One's own state needs no second look at the server, which may not have it yet. */
  async function linkedTo(state: string, mine: Draft[]): Promise<Linked> {
    const draft = mine.find((d) => d.state === state)
    if (draft) return { state, document: draft.document, by: '', draft }
    const waiting = unsent.inState(state)
    if (waiting) {
      const revision = mine.find((d) => d.id === waiting.draft)?.revision ?? 0
      return {
        state,
        document: waiting.document,
        by: '',
        draft: { id: waiting.draft, revision, base: waiting.base },
      }
    }
    const got = await unwrap(api.GET('/api/states/{key}', { params: { path: { key: state } } }))
    return { state, document: got.document, by: got.by }
  }

  function begin(
    set: RecordSet,
    saved: View | null,
    linked: Linked | null,
    template: View | null,
    blank: boolean,
  ): Pick<ViewSource, 'start' | 'by' | 'draft'> {
    const fresh = { id: freshKey(), revision: 0, base: saved?.version ?? 0 }
    if (linked) {
      const { state, document, by, draft } = linked
      return { start: { key: state, document }, by, draft: draft ?? fresh }
    }
    const empty: Document = { gavrik: 1, records: set.key, columns: [] }
    const document = template?.document ?? (blank ? empty : (saved?.document ?? newDocument(set)))
    return { start: { key: '', document }, by: '', draft: fresh }
  }

  return { opened, trouble, elsewhere, open }
}

/** The newest of what waits in this browser and on the server. */
function earlierOf(unsent: Unsent | undefined, draft: Draft | undefined): Earlier | null {
  if (unsent && (!draft || unsent.at > Date.parse(draft.at)))
    return { draft: unsent.draft, state: unsent.state, at: unsent.at }
  return draft ? { draft: draft.id, state: draft.state, at: Date.parse(draft.at) } : null
}
