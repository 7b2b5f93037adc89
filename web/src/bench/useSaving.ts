import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, body, type Document, type View } from '../api/client'

export interface Naming {
  name: string
  description: string
  shared: boolean
}

/** Writes views and favorites. Every write tells the lists to read again. */
export function useSaving() {
  const client = useQueryClient()
  function wrote(view: View) {
    client.setQueryData(['view', view.key], view)
    void client.invalidateQueries({ queryKey: ['views'] })
    void client.invalidateQueries({ queryKey: ['favorites'] })
  }
  const add = useMutation({
    mutationFn: (v: Naming & { document: Document }) => body(api.POST('/api/views', { body: v })),
    onSuccess: wrote,
  })
  const save = useMutation({
    mutationFn: (v: Naming & { document: Document; key: string; base: number }) => {
      const { key, ...rest } = v
      return body(api.PUT('/api/views/{key}', { params: { path: { key } }, body: rest }))
    },
    onSuccess: wrote,
  })
  const remove = useMutation({
    mutationFn: (key: string) => body(api.DELETE('/api/views/{key}', { params: { path: { key } } })),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ['views'] })
      void client.invalidateQueries({ queryKey: ['favorites'] })
    },
  })
  const favorite = useMutation({
    mutationFn: (f: { key: string; everyone: boolean; on: boolean }) =>
      body(api.PUT('/api/views/{key}/favorite', { params: { path: { key: f.key } }, body: { everyone: f.everyone, on: f.on } })),
    onSuccess: wrote,
  })
  return { add, save, remove, favorite }
}
