import { useQueryClient } from '@tanstack/vue-query'
import { api, unwrap, type Content, type Draft, type Saved } from '../api/client'
import { Problem } from '../api/problem'
import { freshKey, type Step } from './useHistory'
import { useUnsent, type Unsent } from './unsaved/useUnsent'

/** What work on a view or a board starts from. */
export interface Source<D extends Content> {
  saved: Saved<D> | null
  start: Step<D>
  /** The draft that is gone on with; a fresh one of revision 0 if there is none. */
  draft: { id: string; revision: number; base: number }
  /** Unsaved work of another time on the same thing; it is never opened unasked. */
  earlier: Earlier | null
  /** The template that is begun from. */
  template: Saved<D> | null
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

/** What an address names: its path, a saved key, a state of unsaved work, a template; empty for none. */
export interface Named {
  place: string
  key: string
  state: string
  from: string
}

/** What is saved is not shared with the reader, but the state that was linked to can be opened by itself. */
export class NotShared<D extends Content> extends Error {
  constructor(readonly document: D) {
    super('It is not shared with you.')
  }
}

/** Finds what an address leads to: a state, or what is saved, or something new. */
export function useSource<D extends Content>() {
  const client = useQueryClient()
  const unsent = useUnsent()

  const saved = async (key: string) =>
    (await client.fetchQuery({
      queryKey: ['view', key],
      queryFn: () =>
        unwrap(api.GET('/api/views/{key}', { params: { path: { key }, query: { open: true } } })),
      staleTime: 0,
    })) as Saved<D>
  const drafts = async (place: string) =>
    (await unwrap(api.GET('/api/drafts', { params: { query: { place } } }))).drafts as Draft<D>[]

  /** Begin makes the document of something new, from what is saved or a template, where there is one. */
  async function open(at: Named, begin: (from: Saved<D> | null) => Promise<D>): Promise<Source<D>> {
    const mine = drafts(at.place)
    const linked = at.state ? linkedTo(at.state, await mine) : null
    let own: Saved<D> | null = null
    try {
      own = at.key ? await saved(at.key) : null
    } catch (error) {
      const state = await linked
      if (!(error instanceof Problem) || error.status !== 404 || !state) throw error
      throw new NotShared(state.document)
    }
    const template = at.from ? await saved(at.from) : null
    const fresh = { id: freshKey(), revision: 0, base: own?.version ?? 0 }
    const state = await linked
    return {
      saved: own,
      template,
      start: { key: state ? at.state : '', document: state?.document ?? (await begin(template ?? own)) },
      by: state?.by ?? '',
      draft: state?.draft ?? fresh,
      earlier: at.state ? null : earlierOf(unsent.newestAt(at.place), (await mine)[0]),
    }
  }

  interface Linked {
    document: D
    by: string
    draft?: Source<D>['draft']
  }

  /** One's own state needs no second look at the server, which may not have it yet. */
  async function linkedTo(state: string, mine: Draft<D>[]): Promise<Linked> {
    const draft = mine.find((d) => d.state === state)
    if (draft) return { document: draft.document, by: '', draft }
    const waiting = unsent.inState(state)
    if (waiting) {
      const revision = mine.find((d) => d.id === waiting.draft)?.revision ?? 0
      return {
        document: waiting.document as D,
        by: '',
        draft: { id: waiting.draft, revision, base: waiting.base },
      }
    }
    const got = await unwrap(api.GET('/api/states/{key}', { params: { path: { key: state } } }))
    return { document: got.document as D, by: got.by }
  }

  return { open }
}

/** The newest of what waits in this browser and on the server. */
function earlierOf(unsent: Unsent | undefined, draft: Draft | undefined): Earlier | null {
  if (unsent && (!draft || unsent.at > Date.parse(draft.at)))
    return { draft: unsent.draft, state: unsent.state, at: unsent.at }
  return draft ? { draft: draft.id, state: draft.state, at: Date.parse(draft.at) } : null
}
