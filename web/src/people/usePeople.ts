import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, unwrap, type Schemas } from '../api/client'
import { queries } from '../api/queries'

export type Person = Schemas['Person']
export type PeopleGroup = Schemas['PeopleGroup']
export type Limit = Schemas['Limit']
export type SetFields = Schemas['SetFields']
export type NewField = Schemas['NewField']

export const roles = [
  { role: 'reader', label: 'Reader', may: 'opens views and tries them out' },
  { role: 'analyst', label: 'Analyst', may: 'saves and shares, too' },
  { role: 'administrator', label: 'Administrator', may: 'sees everything, and manages people' },
] as const

/** Everybody, the groups they are in, and every change of either. */
export function usePeople() {
  const client = useQueryClient()
  const people = useQuery(queries.people())
  const groups = useQuery(queries.groups())
  // What anybody sees may have changed, one's own not least.
  const again = () => client.invalidateQueries()
  const at = (id: number) => ({ params: { path: { id } } })
  const add = useMutation({
    mutationFn: (p: Schemas['AddPersonInputBody']) => unwrap(api.POST('/api/people', { body: p })),
    onSuccess: again,
  })
  const change = useMutation({
    mutationFn: ({ id, ...p }: Schemas['ChangePersonInputBody'] & { id: number }) =>
      unwrap(api.PUT('/api/people/{id}', { ...at(id), body: p })),
    onSuccess: again,
  })
  const reset = useMutation({
    mutationFn: (id: number) => unwrap(api.POST('/api/people/{id}/password', at(id))),
    onSuccess: again,
  })
  const dropSecond = useMutation({
    mutationFn: (id: number) => unwrap(api.DELETE('/api/people/{id}/second-factor', at(id))),
    onSuccess: again,
  })
  const required = useQuery(queries.secondFactorRequired())
  const require = useMutation({
    mutationFn: (on: boolean) => unwrap(api.PUT('/api/second-factor/required', { body: { required: on } })),
    onSuccess: again,
  })
  const handAll = useMutation({
    mutationFn: ({ id, to }: { id: number; to: number }) =>
      unwrap(api.POST('/api/people/{id}/views', { ...at(id), body: { to } })),
    onSuccess: again,
  })
  const addGroup = useMutation({
    mutationFn: (g: Schemas['GroupBody']) => unwrap(api.POST('/api/groups', { body: g })),
    onSuccess: again,
  })
  const changeGroup = useMutation({
    mutationFn: ({ id, ...g }: Schemas['ChangeGroupBody'] & { id: number }) =>
      unwrap(api.PUT('/api/groups/{id}', { ...at(id), body: g })),
    onSuccess: again,
  })
  const removeGroup = useMutation({
    mutationFn: (id: number) => unwrap(api.DELETE('/api/groups/{id}', at(id))),
    onSuccess: again,
  })
  const sensitive = useMutation({
    mutationFn: ({ set, field, on }: { set: string; field: string; on: boolean }) =>
      unwrap(
        api.PUT('/api/catalog/{set}/fields/{field}/sensitive', {
          params: { path: { set, field } },
          body: { sensitive: on },
        }),
      ),
    onSuccess: again,
  })
  const show = useMutation({
    mutationFn: ({ set, field }: { set: string; field: string }) =>
      unwrap(api.POST('/api/catalog/{set}/shown', { params: { path: { set } }, body: { field } })),
    onSuccess: again,
  })
  return {
    show,
    dropSecond,
    required,
    require,
    people,
    groups,
    add,
    change,
    reset,
    handAll,
    addGroup,
    changeGroup,
    removeGroup,
    sensitive,
    /** Traits that some group's rule asks for. */
    asked: computed(() =>
      [
        ...new Set((groups.data.value?.groups ?? []).flatMap((g) => g.limits.flatMap((l) => l.asks ?? []))),
      ].sort(),
    ),
  }
}

export type Managing = ReturnType<typeof usePeople>
