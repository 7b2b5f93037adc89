import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, body, type Document, type View } from '../api/client'
import type { Mark } from '../library/marks'
import { sameShares, type Share } from '../sharing/shares'

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
    client.setQueryData(['view', view.key], view)
    void client.invalidateQueries({ queryKey: ['views'] })
    void client.invalidateQueries({ queryKey: ['favorites'] })
  }
  /** A view with what its owner says of it beside the document. */
  async function marked(view: View, { label, mark, template }: Naming): Promise<View> {
    if (!view.owned || (view.label === label && view.mark === mark && view.template === template)) return view
    return body(api.PUT('/api/views/{key}/mark', { params: { path: { key: view.key } }, body: { label, mark, template } }))
  }
  async function shared(view: View, { shares }: Naming): Promise<View> {
    if (!view.owned || sameShares(view.shares, shares)) return view
    return body(api.PUT('/api/views/{key}/shares', { params: { path: { key: view.key } }, body: { shares: [...shares] } }))
  }
  /** The key of the save at hand: the same again, if it is repeated after an answer was lost. */
  let request: { of: string; key: string } | null = null
  function requestOf(sent: object): string {
    const of = JSON.stringify(sent)
    if (request?.of !== of) request = { of, key: Array.from(crypto.getRandomValues(new Uint32Array(4)), (n) => n.toString(36)).join('-') }
    return request.key
  }
  const add = useMutation({
    mutationFn: async ({ document, ...as }: Naming & { document: Document }) => {
      const { name, description, shares } = as
      const sent = { name, description, document, shares: [...shares] }
      const view = await body(api.POST('/api/views', { body: sent, params: { header: { 'Idempotency-Key': requestOf(sent) } } }))
      request = null
      return marked(view, as)
    },
    onSuccess: wrote,
  })
  const save = useMutation({
    mutationFn: async ({ document, key, base, ...as }: Naming & { document: Document; key: string; base: number }) => {
      const { name, description } = as
      const view = await body(api.PUT('/api/views/{key}', { params: { path: { key } }, body: { name, description, document, base } }))
      return shared(await marked(view, as), as)
    },
    onSuccess: wrote,
  })
  const handOver = useMutation({
    mutationFn: async ({ key, to }: { key: string; to: number }) => {
      await body(api.PUT('/api/views/{key}/owner', { params: { path: { key } }, body: { to } }))
      for (const list of ['views', 'favorites']) void client.invalidateQueries({ queryKey: [list] })
      return body(api.GET('/api/views/{key}', { params: { path: { key } } })).catch(() => null)
    },
    onSuccess: (view) => { if (view) wrote(view) },
  })
  const remove = useMutation({
    mutationFn: (key: string) => body(api.DELETE('/api/views/{key}', { params: { path: { key } } })),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ['views'] })
      void client.invalidateQueries({ queryKey: ['favorites'] })
      void client.invalidateQueries({ queryKey: ['bin'] })
    },
  })
  const favorite = useMutation({
    mutationFn: ({ key, ...f }: { key: string; everyone?: boolean; group?: number; on: boolean }) =>
      body(api.PUT('/api/views/{key}/favorite', { params: { path: { key } }, body: f })),
    onSuccess: wrote,
  })
  return { add, save, remove, favorite, handOver }
}
