import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, body, type Document, type View } from '../api/client'
import type { Mark } from '../library/marks'

export interface Naming {
  name: string
  description: string
  shared: boolean
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
  async function marked(view: View, label: string, mark: Mark, template: boolean): Promise<View> {
    if (view.label === label && view.mark === mark && view.template === template) return view
    return body(api.PUT('/api/views/{key}/mark', { params: { path: { key: view.key } }, body: { label, mark, template } }))
  }
  const add = useMutation({
    mutationFn: async ({ label, mark, template, ...v }: Naming & { document: Document }) => marked(await body(api.POST('/api/views', { body: v })), label, mark, template),
    onSuccess: wrote,
  })
  const save = useMutation({
    mutationFn: (v: Naming & { document: Document; key: string; base: number }) => {
      const { key, label, mark, template, ...rest } = v
      return body(api.PUT('/api/views/{key}', { params: { path: { key } }, body: rest })).then((view) => marked(view, label, mark, template))
    },
    onSuccess: wrote,
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
    mutationFn: (f: { key: string; everyone: boolean; on: boolean }) =>
      body(api.PUT('/api/views/{key}/favorite', { params: { path: { key: f.key } }, body: { everyone: f.everyone, on: f.on } })),
    onSuccess: wrote,
  })
  return { add, save, remove, favorite }
}
