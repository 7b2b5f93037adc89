import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, unwrap, type Content, type Saved } from '../../api/client'
import { forget } from '../../api/queries'
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
export function useSaving<D extends Content>() {
  const client = useQueryClient()
  function wrote(view: Saved<D>) {
    client.setQueryData<Saved<Content>>(['view', view.key], view)
    void forget(client, 'views', 'favorites')
  }
  /** A view with what its owner says of it beside the document. */
  async function marked(view: Saved<D>, { label, mark, template }: Naming): Promise<Saved<D>> {
    if (!view.owned || (view.label === label && view.mark === mark && view.template === template)) return view
    return (await unwrap(
      api.PUT('/api/views/{key}/mark', {
        params: { path: { key: view.key } },
        body: { label, mark, template },
      }),
    )) as Saved<D>
  }
  async function shared(view: Saved<D>, { shares }: Naming): Promise<Saved<D>> {
    if (!view.owned || sameShares(view.shares, shares)) return view
    return (await unwrap(
      api.PUT('/api/views/{key}/shares', {
        params: { path: { key: view.key } },
        body: { shares: [...shares] },
      }),
    )) as Saved<D>
  }
  /**
   * The save at hand: what is sent, under which key, and what the server made of it. A save that is
   * repeated, as after a lost answer or a second half that failed, is the same save: it makes no
   * second view, and does not meet its own first half as somebody else's.
   */
  let hand: { of: string; key: string; written: Saved<D> | null } | null = null
  function atHand(sent: object) {
    const of = JSON.stringify(sent)
    if (hand?.of !== of) hand = { of, key: freshKey(), written: null }
    return hand
  }
  const add = useMutation({
    mutationFn: async ({ document, ...as }: Naming & { document: D }) => {
      const { name, description, shares } = as
      const sent = { name, description, document, shares: [...shares] }
      const now = atHand(sent)
      now.written ??= (await unwrap(
        api.POST('/api/views', { body: sent, params: { header: { 'Idempotency-Key': now.key } } }),
      )) as Saved<D>
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
    }: Naming & { document: D; key: string; base: number }) => {
      const { name, description } = as
      const sent = { name, description, document, base }
      const now = atHand({ key, ...sent })
      now.written ??= (await unwrap(
        api.PUT('/api/views/{key}', { params: { path: { key } }, body: sent }),
      )) as Saved<D>
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
      return (await unwrap(api.GET('/api/views/{key}', { params: { path: { key } } })).catch(
        () => null,
      )) as Saved<D> | null
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
    mutationFn: async ({ key, ...f }: { key: string; everyone?: boolean; group?: number; on: boolean }) =>
      (await unwrap(
        api.PUT('/api/views/{key}/favorite', { params: { path: { key } }, body: f }),
      )) as Saved<D>,
    onSuccess: wrote,
  })
  return { add, save, remove, favorite, handOver }
}
