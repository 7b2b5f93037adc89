import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { api, unwrap, type SetWords } from '../api/client'
import { queries } from '../api/queries'

/** A change that was just made, to be taken back. */
interface Undoable {
  words: string
  before: SetWords
}

/** What people say about one record set, and how they say something else. Only for administrators. */
export function useDescribing(set: Ref<string>, may: Ref<boolean>) {
  const client = useQueryClient()
  const description = useQuery(computed(() => ({ ...queries.description(set.value), enabled: may.value })))
  const undoable = ref<Undoable | null>(null)
  // Everything that names a field may be called otherwise now.
  const everything = () => client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== 'me' })
  const saying = useMutation({
    mutationFn: ({ next, anyway }: { next: SetWords; words: string; anyway?: boolean }) =>
      unwrap(
        api.PUT('/api/catalog/{set}/description', {
          params: { path: { set: set.value } },
          body: { version: description.data.value?.version ?? 0, said: next, anyway },
        }),
      ),
    onMutate: () => ({ before: description.data.value?.said ?? {}, of: set.value }),
    onSuccess: (now, { words }, { before, of }) => {
      client.setQueryData(queries.description(of).queryKey, now)
      undoable.value = words ? { words, before } : null
      return everything()
    },
  })
  const marking = useMutation({
    mutationFn: ({ field, on }: { field: string; on: boolean }) =>
      unwrap(
        api.PUT('/api/catalog/{set}/fields/{field}/sensitive', {
          params: { path: { set: set.value, field } },
          body: { sensitive: on },
        }),
      ),
    onSuccess: everything,
  })
  function undo() {
    if (undoable.value) saying.mutate({ next: undoable.value.before, words: '', anyway: true })
  }
  /** Says once more what was refused because views would have to be mended. */
  async function sayAnyway() {
    const refused = saying.variables.value
    if (refused) await saying.mutateAsync({ ...refused, anyway: true })
  }
  return { description, saying, sayAnyway, marking, undoable, undo }
}

export type Describing = ReturnType<typeof useDescribing>
