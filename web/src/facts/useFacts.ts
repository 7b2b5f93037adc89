import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'
import { api, unwrap, type FactBody } from '../api/client'
import { queries } from '../api/queries'

/** The facts of a record set, and how one is added, changed, taken away and brought back. */
export function useFacts(set: Ref<string>) {
  const client = useQueryClient()
  const facts = useQuery(computed(() => queries.facts(set.value)))
  const everything = () => client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'me' })
  const path = (key: string) => ({ path: { set: set.value, key } })
  const add = useMutation({
    mutationFn: (body: FactBody) =>
      unwrap(api.POST('/api/facts/{set}', { params: { path: { set: set.value } }, body })),
    onSuccess: everything,
  })
  const change = useMutation({
    mutationFn: ({ key, base, fact }: { key: string; base: number; fact: FactBody }) =>
      unwrap(api.PUT('/api/facts/{set}/{key}', { params: path(key), body: { base, fact } })),
    onSuccess: everything,
  })
  const remove = useMutation({
    mutationFn: (key: string) => unwrap(api.DELETE('/api/facts/{set}/{key}', { params: path(key) })),
    onSuccess: everything,
  })
  const restore = useMutation({
    mutationFn: (key: string) => unwrap(api.POST('/api/facts/{set}/{key}/restore', { params: path(key) })),
    onSuccess: everything,
  })
  return { facts, add, change, remove, restore }
}

export type FactsOf = ReturnType<typeof useFacts>
