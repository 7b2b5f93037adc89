import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { api, unwrap, type Filling } from '../api/client'

/** A value for a record: as it was typed, and what stood there when one began. */
export interface Typed {
  record: string
  value: string
  was?: string
}

/** Something that was filled in, in words, with the way back. */
export interface Filled {
  words: string
  batch: number
  set: string
  fact: string
}

/** Fills facts in, and takes it back. Everything that shows records is asked for again then. */
export function useFilling() {
  const client = useQueryClient()
  // What is filled in may be a part of any answer.
  const everything = () => client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'me' })
  const fill = useMutation({
    mutationFn: ({
      set,
      fact,
      values,
      check,
    }: {
      set: string
      fact: string
      values: Typed[]
      check?: boolean
    }) =>
      unwrap(
        api.POST('/api/facts/{set}/{key}/values', {
          params: { path: { set, key: fact } },
          body: { values, check },
        }),
      ),
    onSuccess: (got: Filling) => {
      if (got.written) void everything()
    },
  })
  const undo = useMutation({
    mutationFn: ({ set, fact, batch }: Pick<Filled, 'set' | 'fact' | 'batch'>) =>
      unwrap(
        api.POST('/api/facts/{set}/{key}/undo', { params: { path: { set, key: fact } }, body: { batch } }),
      ),
    onSuccess: () => void everything(),
  })
  return { fill, undo }
}
