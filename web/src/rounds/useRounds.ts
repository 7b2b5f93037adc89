import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, unwrap, type Round, type Schemas } from '../api/client'
import { forget, queries } from '../api/queries'

export type RoundTerms = Schemas['RoundTerms']

/** Where a round's view opens, with the round's answers and not with the last ones given. */
export const placeOf = (round: Round) => ({
  path: `/v/${round.view}`,
  query: { answers: JSON.stringify(round.terms.answers ?? {}), round: round.key },
})

/** The rounds of whoever is signed in, and what can be done with them. */
export function useRounds() {
  const client = useQueryClient()
  const list = useQuery(queries.rounds())
  const rounds = computed(() => list.data.value?.rounds ?? [])
  const again = () => forget(client, 'rounds', 'looks')
  const at = (key: string) => ({ params: { path: { key } } })
  const look = useMutation({
    mutationFn: ({ key, ...body }: { key: string; seeing?: boolean; note?: string }) =>
      unwrap(api.POST('/api/rounds/{key}/looks', { ...at(key), body })),
    onSuccess: again,
  })
  const note = useMutation({
    mutationFn: ({ key, note }: { key: string; note: string }) =>
      unwrap(api.PUT('/api/rounds/{key}/note', { ...at(key), body: { note } })),
    onSuccess: again,
  })
  const save = useMutation({
    mutationFn: ({ key, view, terms }: { key?: string; view: string; terms: RoundTerms }) =>
      key
        ? unwrap(api.PUT('/api/rounds/{key}', { ...at(key), body: terms }))
        : unwrap(api.POST('/api/rounds', { body: { view, ...terms } })),
    onSuccess: again,
  })
  const end = useMutation({
    mutationFn: (key: string) => unwrap(api.DELETE('/api/rounds/{key}', at(key))),
    onSuccess: again,
  })
  return {
    list,
    /** On one's desk, the longest due first. */
    due: computed(() => rounds.value.filter((r) => r.due)),
    /** Those that one looks at and that are not due, and those that one has made for others. */
    others: computed(() => rounds.value.filter((r) => !r.due)),
    ofView: (view: string) => rounds.value.filter((r) => r.view === view),
    look,
    note,
    save,
    end,
  }
}
