import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, unwrap } from '../api/client'
import { queries } from '../api/queries'

/** Who is signed in; null for nobody, undefined while that is not known. */
export function useMe() {
  const { data, error } = useQuery(queries.me())
  return { me: computed(() => data.value), error }
}

export function useSession() {
  const client = useQueryClient()
  const signIn = useMutation({
    mutationFn: (who: { email: string; password: string; code?: string }) =>
      unwrap(api.POST('/api/session', { body: who })),
    onSuccess: (me) => {
      client.setQueryData(queries.me().queryKey, me)
      void client.invalidateQueries({
        predicate: (q) => q.queryKey[0] !== 'me' && q.state.status === 'error',
      })
    },
  })
  const signOut = useMutation({
    mutationFn: () => unwrap(api.DELETE('/api/session')),
    onSuccess: () => location.assign('/'), // nothing of what was shown stays in memory
  })
  const signOutEverywhere = useMutation({
    mutationFn: () => unwrap(api.DELETE('/api/sessions')),
    onSuccess: () => location.assign('/'),
  })
  return { signIn, signOut, signOutEverywhere }
}
