import { keepPreviousData, queryOptions, type QueryClient } from '@tanstack/vue-query'
import type { Answers } from '../bench/ask/answers'
import { limited } from '../boards/limited'
import { askFrozen, type Frozen } from './frozen'
import {
  api,
  unwrap,
  type Board,
  type BoardPart,
  type Content,
  type Definition,
  type Document,
  type Me,
  type RecordSet,
  type Saved,
  type Schemas,
  type View,
} from './client'
import { Problem } from './problem'
import { ofSameThing } from './sameThing'

/** Parts of boards are asked for some at a time, so that a large board leaves room for others. */
const partTurn = limited(6)

/** A field that a view or a definition makes; one of them is there. */
export type Made = Pick<Definition, 'calculated' | 'bucket' | 'linked' | 'beside'>

/** The record sets that are offered where one is chosen. */
export const offeredSets = (sets: readonly RecordSet[] | undefined) => (sets ?? []).filter((s) => !s.hidden)

/** How many pages of paper are asked for at once: all lines are laid out anew for each request. */
export const pagesAtOnce = 8

/**
 * Everything that screens ask the server, each with its name among what is remembered and with the
 * signal that ends it once nobody waits for it. What keeps its last answer in sight while the next is on
 * its way says of what thing it is: see sameThing.ts.
 */
export const queries = {
  // The workspace

  me: () =>
    queryOptions({
      queryKey: ['me'],
      staleTime: Infinity,
      queryFn: async ({ signal }): Promise<Me | null> => {
        try {
          return await unwrap(api.GET('/api/session', { signal }))
        } catch (problem) {
          if (problem instanceof Problem && problem.status === 401) return null
          throw problem
        }
      },
    }),
  /** Questions of one's own that databases work on; looked at again and again. */
  asking: () =>
    queryOptions({
      queryKey: ['asking'],
      gcTime: 0,
      refetchInterval: 1000,
      queryFn: ({ signal }) => unwrap(api.GET('/api/asking', { signal })),
    }),
  signInChoices: () =>
    queryOptions({
      queryKey: ['sign-in choices'],
      staleTime: Infinity,
      queryFn: ({ signal }) => unwrap(api.GET('/api/session/ways', { signal })),
    }),
  signIns: () =>
    queryOptions({
      queryKey: ['sign-ins'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/sessions', { signal })),
    }),
  tokens: () =>
    queryOptions({
      queryKey: ['tokens'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/tokens', { signal })),
    }),
  people: () =>
    queryOptions({
      queryKey: ['people'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/people', { signal })),
    }),
  groups: () =>
    queryOptions({
      queryKey: ['groups'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/groups', { signal })),
    }),
  /** People and groups by name, for whoever shares or hands over. */
  names: () =>
    queryOptions({ queryKey: ['names'], queryFn: ({ signal }) => unwrap(api.GET('/api/names', { signal })) }),
  secondFactorRequired: () =>
    queryOptions({
      queryKey: ['second-required'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/second-factor/required', { signal })),
    }),
  sees: (person: number) =>
    queryOptions({
      queryKey: ['sees', person],
      staleTime: 0,
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/people/{id}/sees', { signal, params: { path: { id: person } } })),
    }),

  // What comes by itself

  /** A rule in words, and when it comes next. */
  ruleWords: (rule: Schemas['Rule']) =>
    queryOptions({
      queryKey: ['rule words', rule],
      staleTime: 60_000,
      queryFn: ({ signal }) => unwrap(api.POST('/api/recurrence', { signal, body: { when: rule } })),
    }),
  /** What can be asked of a view that comes by itself. */
  recurringChoices: (view: string) =>
    queryOptions({
      queryKey: ['recurring choices', view],
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/views/{key}/recurring', { signal, params: { path: { key: view } } })),
    }),
  /** Views that are to be looked at again and again. */
  rounds: () =>
    queryOptions({
      queryKey: ['rounds'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/rounds', { signal })),
    }),
  /** Who looked when. */
  looks: (round: string) =>
    queryOptions({
      queryKey: ['looks', round],
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/rounds/{key}/looks', { signal, params: { path: { key: round } } })),
    }),
  /** What is sent by itself: one's own, or everybody's for administrators. */
  deliveries: () =>
    queryOptions({
      queryKey: ['deliveries'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/deliveries', { signal })),
    }),
  /** The letter that a delivery would send to oneself. */
  deliveryPreview: (view: string, terms: Schemas['DeliveryTerms']) =>
    queryOptions({
      queryKey: ['delivery preview', view, terms],
      retry: false,
      queryFn: ({ signal }) =>
        unwrap(api.POST('/api/deliveries/preview', { signal, body: { view, ...terms } })),
    }),
  /** What was sent of a delivery, to whom, and what became of it. */
  letters: (delivery: string) =>
    queryOptions({
      queryKey: ['letters', delivery],
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/deliveries/{key}/letters', { signal, params: { path: { key: delivery } } })),
    }),
  calendarFeed: () =>
    queryOptions({
      queryKey: ['calendar feed'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/calendar', { signal })),
    }),

  // Records and what is known of them

  catalog: () =>
    queryOptions({
      queryKey: ['catalog'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/catalog', { signal })),
    }),
  fields: (set: string) =>
    queryOptions({
      queryKey: ['fields', set],
      enabled: set !== '',
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/catalog/{set}/fields', { signal, params: { path: { set } } })),
    }),
  /** One's own files on their way in. */
  uploads: () =>
    queryOptions({
      queryKey: ['uploads'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/uploads', { signal })),
    }),
  upload: (id: string) =>
    queryOptions({
      queryKey: ['upload', id],
      queryFn: ({ signal }) => unwrap(api.GET('/api/uploads/{id}', { signal, params: { path: { id } } })),
    }),
  /** Record sets that came as files. */
  broughtIn: () =>
    queryOptions({
      queryKey: ['brought in'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/brought-in', { signal })),
    }),
  /** Rows of a file that were kept aside. */
  aside: (set: string) =>
    queryOptions({
      queryKey: ['aside', set],
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/brought-in/{set}/aside', { signal, params: { path: { set } } })),
    }),
  /** What people say about a record set, and what its database says. */
  description: (set: string) =>
    queryOptions({
      queryKey: ['description', set],
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/catalog/{set}/description', { signal, params: { path: { set } } })),
    }),
  /** What a field would be as another type. */
  readAs: (set: string, field: string, type: Schemas['ReadAsInputBody']['type'], read: string) =>
    queryOptions({
      queryKey: ['description', set, 'read as', field, type, read],
      retry: false,
      queryFn: ({ signal }) =>
        unwrap(
          api.POST('/api/catalog/{set}/read-as', {
            signal,
            params: { path: { set } },
            body: { field, type, read },
          }),
        ),
    }),
  /** Fields of a record set that people fill in. */
  facts: (set: string) =>
    queryOptions({
      queryKey: ['facts', set],
      queryFn: ({ signal }) => unwrap(api.GET('/api/facts/{set}', { signal, params: { path: { set } } })),
    }),
  /** Whether analysts may add facts. */
  factAdding: () =>
    queryOptions({
      queryKey: ['fact adding'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/fact-adding', { signal })),
    }),
  /** Who filled in what for a record. */
  factHistory: (set: string, key: string, record: string) =>
    queryOptions({
      queryKey: ['facts', set, key, record],
      staleTime: 0,
      retry: false,
      queryFn: ({ signal }) =>
        unwrap(
          api.GET('/api/facts/{set}/{key}/history', {
            signal,
            params: { path: { set, key }, query: { record } },
          }),
        ),
    }),
  /** What fields hold under a filter. */
  overview: (view: Document, fields: string[]) =>
    queryOptions({
      queryKey: ['overview', view, fields],
      placeholderData: keepPreviousData,
      retry: false,
      queryFn: ({ signal }) => unwrap(api.POST('/api/overview', { signal, body: { view, fields } })),
    }),
  /** Values of the records that link to those of a set, which can be made fields. */
  linkedOffers: (set: string) =>
    queryOptions({
      queryKey: ['fields', set, 'linked offers'],
      enabled: set !== '',
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/catalog/{set}/linked-values', { signal, params: { path: { set } } })),
    }),
  /** What a value looks like that a view draws from other records. */
  madeValue: (view: Document, key: string) =>
    queryOptions({
      queryKey: ['fields', view.records, 'made value', view, key],
      retry: false,
      queryFn: ({ signal }) => unwrap(api.POST('/api/linked-value', { signal, body: { view, key } })),
    }),
  /** Fields of a record set that hold a text somewhere. */
  holding: (set: string, text: string) =>
    queryOptions({
      queryKey: ['holding', set, text],
      enabled: set !== '' && text.length > 1,
      staleTime: 60_000,
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/catalog/{set}/holding', { signal, params: { path: { set }, query: { text } } })),
    }),
  definitions: () =>
    queryOptions({
      queryKey: ['definitions'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/definitions', { signal })),
    }),
  /** What a changed definition does to the views that use it. */
  effects: ({ records, key, version }: Definition, draft: Made) =>
    queryOptions({
      queryKey: ['effects', `${records}.${key}`, version, draft],
      retry: false,
      placeholderData: ofSameThing(`${records}.${key}`),
      queryFn: ({ signal }) =>
        unwrap(
          api.POST('/api/definitions/{set}/{key}/effects', {
            signal,
            params: { path: { set: records, key } },
            body: { ...draft, base: version },
          }),
        ),
    }),
  functions: () =>
    queryOptions({
      queryKey: ['functions'],
      staleTime: Infinity,
      queryFn: ({ signal }) => unwrap(api.GET('/api/functions', { signal })),
    }),

  // Views

  views: () =>
    queryOptions({ queryKey: ['views'], queryFn: ({ signal }) => unwrap(api.GET('/api/views', { signal })) }),
  view: (key: string) =>
    queryOptions({
      queryKey: ['view', key],
      queryFn: async ({ signal }) =>
        (await unwrap(api.GET('/api/views/{key}', { signal, params: { path: { key } } }))) as View,
    }),
  /** What a view that is shared for its totals says of itself. */
  totalsSentence: (view: View) =>
    queryOptions({
      queryKey: ['totals sentence', view.key, view.version],
      retry: false,
      queryFn: async ({ signal }) =>
        (
          await unwrap(
            api.POST('/api/run', {
              signal,
              headers: askFrozen({ totals: view.key }),
              body: { view: view.document, depth: 0, limit: 0 },
            }),
          )
        ).sentence,
    }),
  versions: (key: string, newest: number) =>
    queryOptions({
      queryKey: ['versions', key, newest],
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/views/{key}/versions', { signal, params: { path: { key } } })),
    }),
  /** What two have made of one version of a view: theirs as it is saved, and mine. */
  conflict: (key: string, base: number, mine: Content) =>
    queryOptions({
      queryKey: ['conflict', key, base],
      staleTime: 0,
      gcTime: 0,
      retry: false,
      queryFn: async ({ signal }) => {
        const path = { key }
        const theirs = (await unwrap(
          api.GET('/api/views/{key}', { signal, params: { path } }),
        )) as Saved<Content>
        const was = await unwrap(
          api.GET('/api/views/{key}/versions/{version}', {
            signal,
            params: { path: { key, version: base } },
          }),
        )
        const between = (to: Content) => changesBetween(was.document, to, signal)
        return { theirs, hers: await between(theirs.document), own: await between(mine) }
      },
    }),
  /** What a board is made of: its views, and what it asks for all of them. */
  lookAtBoard: (board: Board, saved: Saved<Board> | null, answers: Answers) =>
    queryOptions({
      queryKey: ['board', board, saved?.key, saved?.shares, answers],
      placeholderData: keepPreviousData,
      retry: false,
      queryFn: ({ signal }) =>
        unwrap(
          api.POST('/api/boards/look', {
            signal,
            body: { board, saved: saved?.key, shares: [...(saved?.shares ?? [])], answers },
          }),
        ),
    }),
  /** The pages of a board as they would print. */
  boardPages: (taking: Schemas['BoardTaking']) =>
    queryOptions({
      queryKey: ['board pages', taking],
      placeholderData: keepPreviousData,
      retry: false,
      queryFn: ({ signal }) => unwrap(api.POST('/api/boards/pages', { signal, body: taking })),
    }),
  /** What a part of a board shows, with answers to its view's own questions. */
  boardPart: (part: BoardPart, saved: string | undefined, answers: Answers) =>
    queryOptions({
      queryKey: ['board part', `${part.show} ${part.view}`, part, saved, answers],
      placeholderData: ofSameThing(`${part.show} ${part.view}`),
      retry: false,
      queryFn: ({ signal }) =>
        partTurn(signal, () =>
          unwrap(api.POST('/api/boards/part', { signal, body: { part, saved, answers } })),
        ),
    }),
  bin: () =>
    queryOptions({ queryKey: ['bin'], queryFn: ({ signal }) => unwrap(api.GET('/api/bin', { signal })) }),
  favorites: () =>
    queryOptions({
      queryKey: ['favorites'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/favorites', { signal })),
    }),
  drafts: () =>
    queryOptions({
      queryKey: ['drafts'],
      staleTime: 0,
      queryFn: ({ signal }) => unwrap(api.GET('/api/drafts', { signal })),
    }),
  /** The views and record sets nearest to some words. */
  find: (words: string) =>
    queryOptions({
      queryKey: ['find', words],
      enabled: words !== '',
      placeholderData: keepPreviousData,
      queryFn: ({ signal }) => unwrap(api.GET('/api/find', { signal, params: { query: { words } } })),
    }),

  // Answers

  /** The first lines of a view, apart from the bench. */
  run: (thing: string, body: Schemas['RunInputBody'], enabled = true) =>
    queryOptions({
      queryKey: ['run', thing, body],
      enabled,
      placeholderData: ofSameThing(thing),
      queryFn: ({ signal }) => unwrap(api.POST('/api/run', { signal, body })),
    }),
  values: (view: Document, field: string, search: string, limit: number, enabled = true) =>
    queryOptions({
      queryKey: ['values', field, view, search, limit],
      enabled,
      placeholderData: ofSameThing(field),
      queryFn: ({ signal }) =>
        unwrap(api.POST('/api/values', { signal, body: { view, field, search, limit } })),
    }),
  distribution: (view: Document, field: string, bins: number) =>
    queryOptions({
      queryKey: ['distribution', field, view, bins],
      retry: false,
      placeholderData: ofSameThing(field),
      queryFn: ({ signal }) => unwrap(api.POST('/api/distribution', { signal, body: { view, field, bins } })),
    }),
  explain: (view: Document, group: string, column: number, field: string, enabled: boolean) =>
    queryOptions({
      queryKey: ['explain', { group, column, field }, view],
      retry: false,
      enabled,
      placeholderData: ofSameThing({ group, column, field }),
      queryFn: ({ signal }) =>
        unwrap(api.POST('/api/explain', { signal, body: { view, column, group: group || undefined } })),
    }),
  /** The conditions that lead to the records behind a figure. */
  behind: (view: Document, group: string, column: number) =>
    queryOptions({
      queryKey: ['behind', { group, column }, view],
      retry: false,
      placeholderData: ofSameThing({ group, column }),
      queryFn: ({ signal }) =>
        unwrap(api.POST('/api/behind', { signal, body: { view, column, group: group || undefined } })),
    }),

  // Kept results

  /** What was kept of a view, the newest first. */
  keptOf: (view: string) =>
    queryOptions({
      queryKey: ['kept results', view],
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/views/{key}/kept', { signal, params: { path: { key: view } } })),
    }),
  kept: (key: string) =>
    queryOptions({
      queryKey: ['kept result', key],
      retry: false,
      queryFn: ({ signal }) => unwrap(api.GET('/api/kept/{key}', { signal, params: { path: { key } } })),
    }),
  /** One's plan by which results of a view are kept. */
  keeping: (view: string) =>
    queryOptions({
      queryKey: ['keeping', view],
      queryFn: ({ signal }) =>
        unwrap(api.GET('/api/views/{key}/keeping', { signal, params: { path: { key: view } } })),
    }),
  /** What became of the records of a kept result, in another or until now. */
  differences: (key: string, other: string) =>
    queryOptions({
      queryKey: ['kept differences', key, other],
      retry: false,
      queryFn: ({ signal }) =>
        unwrap(
          api.GET('/api/kept/{key}/differences', {
            signal,
            params: { path: { key }, query: { with: other || undefined } },
          }),
        ),
    }),

  // Taking away

  letterhead: () =>
    queryOptions({
      queryKey: ['letterhead'],
      queryFn: ({ signal }) => unwrap(api.GET('/api/letterhead', { signal })),
    }),
  exportPages: (name: string, document: Document, depth: number | undefined, from: number, frozen?: Frozen) =>
    queryOptions({
      queryKey: ['export pages', name, document, depth, from, frozen],
      staleTime: 0,
      queryFn: ({ signal }) =>
        unwrap(
          api.POST('/api/exports/pages', {
            headers: askFrozen(frozen),
            body: { name, view: document, options: { format: 'pdf', depth }, from, count: pagesAtOnce },
            signal,
          }),
        ),
    }),
  exportPreview: (
    name: string,
    document: Document | undefined,
    options: Schemas['Options'],
    frozen?: Frozen,
  ) =>
    queryOptions({
      queryKey: ['export preview', name, document, options, frozen],
      enabled: !!document,
      staleTime: 0,
      queryFn: ({ signal }) =>
        unwrap(
          api.POST('/api/exports/preview', {
            headers: askFrozen(frozen),
            body: { name, view: document!, options },
            signal,
          }),
        ),
    }),
}

/** What differs from one document to another, in words. */
export async function changesBetween(from: Content, to: Content, signal?: AbortSignal): Promise<string[]> {
  return (await unwrap(api.POST('/api/changes', { signal, body: { from, to } }))).changes
}

/** What is remembered under these names is asked for anew where it is shown. */
export function forget(client: QueryClient, ...names: string[]): Promise<unknown> {
  return Promise.all(names.map((name) => client.invalidateQueries({ queryKey: [name] })))
}
