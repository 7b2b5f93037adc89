import { useQueryClient } from '@tanstack/vue-query'
import { ref, shallowRef } from 'vue'
import { api, body, type Document, type Draft, type RecordSet, type View } from '../api/client'
import { Problem, wordsOf } from '../api/problem'
import { newDocument } from './document'
import { freshKey, type Step } from './useHistory'
import { unsentAt } from './unsent'

/** What a bench starts from. */
export interface Opened {
  set: RecordSet
  saved: View | null
  start: Step
  /** The draft that is gone on with; a fresh one of revision 0 if there is none. */
  draft: { id: string; revision: number; base: number }
  /** The template that is begun from. */
  template: View | null
  /** Who made the state, if it came by a link from somebody else. */
  by: string
}

/** Finds what an address leads to: a link's state, one's own unsaved work, or the view as saved. */
export function useOpened() {
  const client = useQueryClient()
  const opened = shallowRef<Opened | null>(null)
  const trouble = ref('')
  /** The view is not shared with the reader, but the state that was linked to can be opened by itself. */
  const elsewhere = ref('')

  const view = (key: string) => client.fetchQuery({ queryKey: ['view', key], queryFn: () => body(api.GET('/api/views/{key}', { params: { path: { key }, query: { open: true } } })), staleTime: 0 })
  async function drafts(place: string): Promise<Draft[]> {
    return (await body(api.GET('/api/drafts', { params: { query: { place } } }))).drafts
  }

  async function open(place: string, viewKey: string, setKey: string, state: string, from: string, blank: boolean) {
    try {
      const catalog = client.fetchQuery({ queryKey: ['catalog'], queryFn: () => body(api.GET('/api/catalog')), staleTime: 60_000 })
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
      opened.value = begin(set, saved, place, state, await linked, await mine, from ? await view(from) : null, blank)
    } catch (error) {
      trouble.value = wordsOf(error)
    }
  }

  /** One's own state needs no second look at the server. */
  async function linkedTo(state: string, mine: Draft[]): Promise<{ document: Document; by: string; draft?: Draft }> {
    const draft = mine.find((d) => d.state === state)
    if (draft) return { document: draft.document, by: '', draft }
    const got = await body(api.GET('/api/states/{key}', { params: { path: { key: state } } }))
    return { document: got.document, by: got.by }
  }

  function begin(set: RecordSet, saved: View | null, place: string, state: string, linked: Awaited<ReturnType<typeof linkedTo>> | null, mine: Draft[], template: View | null, blank: boolean): Opened {
    const base = saved?.version ?? 0
    const fresh = { id: freshKey(), revision: 0, base }
    if (linked) return { set, saved, template, start: { key: state, document: linked.document }, by: linked.by, draft: linked.draft ?? fresh }
    // A template is begun anew each time; what was left unsaved waits on the desk.
    if (template) return { set, saved, template, start: { key: '', document: template.document }, by: '', draft: fresh }
    if (blank) return { set, saved, template, start: { key: '', document: { gavrik: 1, records: set.key, columns: [] } }, by: '', draft: fresh }
    const unsent = unsentAt(place)
    const newest = mine[0]
    if (unsent && (!newest || unsent.at > Date.parse(newest.at))) {
      const draft = mine.find((d) => d.id === unsent.draft)
      return { set, saved, template, start: { key: unsent.state, document: unsent.document }, by: '', draft: { id: unsent.draft, revision: draft?.revision ?? 0, base: unsent.base } }
    }
    if (newest) return { set, saved, template, start: { key: newest.state, document: newest.document }, by: '', draft: newest }
    return { set, saved, template, start: { key: '', document: saved?.document ?? newDocument(set) }, by: '', draft: fresh }
  }

  return { opened, trouble, elsewhere, open }
}
