import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, unwrap, type Document, type View } from '../../api/client'
import { forget, queries } from '../../api/queries'
import type { Mark } from '../../library/marks'
import { sameShares, type Share } from '../../sharing/shares'
import { freshKey } from '../useHistory'

export interface Naming {
  name: string
  description: string
  shares: readonly Share[]
  label: string
  mark: Mark
  template: boolean
}

/** Writes views and favorites. Every write tells the lists to read again. */
export function useSaving() {
  const client = useQueryClient()
  function wrote(view: View) {
    client.setQueryData(queries.view(view.key).queryKey, view)
    void forget(client, 'views', 'favorites')
  }
  /** A view with what its owner says of it beside the document. */
  async function marked(view: View, { label, mark, template }: Naming): Promise<View> {
    if (!view.owned || (view.label === label && view.mark === mark && view.template === template)) return view
    return unwrap(
      api.PUT('/api/views/{key}/mark', {
        params: { path: { key: view.key } },
        body: { label, mark, template },
      }),
    )
  }
  async function shared(view: View, { shares }: Naming): Promise<View> {
    if (!view.owned || sameShares(view.shares, shares)) return view
    return unwrap(
      api.PUT('/api/views/{key}/shares', {
        params: { path: { key: view.key } },
        body: { shares: [...shares] },
      }),
    )
  }
  /**
   * The save at hand: what is sent, under which key, and what the server made of it. A save that is
   * repeated, as after a lost answer or a second half that failed, is the same save: it makes no
   * second view, and does not meet its own first half as somebody else's.
   */
  let hand: { of: string; key: string; written: View | null } | null = null
  function atHand(sent: object) {
    const of = JSON.stringify(sent)
    if (hand?.of !== of) hand = { of, key: freshKey(), written: null }
    return hand
  }
  const add = useMutation({
    mutationFn: async ({ document, ...as }: Naming & { document: Document }) => {
      const { name, description, shares } = as
      const sent = { name, description, document, shares: [...shares] }
      const now = atHand(sent)
      now.written ??= await unwrap(
        api.POST('/api/views', { body: sent, params: { header: { 'Idempotency-Key': now.key } } }),
      )
      const view = await marked(now.written, as)
      hand = null
      return view
    },
    onSuccess: wrote,
  })
  const save = useMutation({
    mutationFn: async ({
      document,
      key,
      base,
      ...as
    }: Naming & { document: Document; key: string; base: number }) => {
      const { name, description } = as
      const sent = { name, description, document, base }
      const now = atHand({ key, ...sent })
      now.written ??= await unwrap(api.PUT('/api/views/{key}', { params: { path: { key } }, body: sent }))
      const view = await shared(await marked(now.written, as), as)
      hand = null
      return view
    },
    onSuccess: wrote,
  })
  const handOver = useMutation({
    mutationFn: async ({ key, to }: { key: string; to: number }) => {
      await unwrap(api.PUT('/api/views/{key}/owner', { params: { path: { key } }, body: { to } }))
      void forget(client, 'views', 'favorites')
      return unwrap(api.GET('/api/views/{key}', { params: { path: { key } } })).catch(() => null)
    },
    onSuccess: (view) => {
      if (view) wrote(view)
    },
  })
  const remove = useMutation({
    mutationFn: (key: string) => unwrap(api.DELETE('/api/views/{key}', { params: { path: { key } } })),
    onSuccess: () => {
      void forget(client, 'views', 'favorites', 'bin')
    },
  })
  const favorite = useMutation({
    mutationFn: ({ key, ...f }: { key: string; everyone?: boolean; group?: number; on: boolean }) =>
      unwrap(api.PUT('/api/views/{key}/favorite', { params: { path: { key } }, body: f })),
    onSuccess: wrote,
  })
  return { add, save, remove, favorite, handOver }
}
