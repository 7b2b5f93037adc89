import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, unwrap, type Me } from '../api/client'
import { Problem } from '../api/problem'

/** Who is signed in; null for nobody, undefined while that is not known. */
export function useMe() {
  const { data, error } = useQuery<Me | null>({
    queryKey: ['me'],
    staleTime: Infinity,
    queryFn: async () => {
      try {
        return await unwrap(api.GET('/api/session'))
      } catch (problem) {
        if (problem instanceof Problem && problem.status === 401) return null
        throw problem
      }
    },
  })
  return { me: computed(() => data.value), error }
}

export function useSession() {
  const client = useQueryClient()
  const signIn = useMutation({
    mutationFn: (who: { email: string; password: string; code?: string }) =>
      unwrap(api.POST('/api/session', { body: who })),
    onSuccess: (me) => {
      client.setQueryData(['me'], me)
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
