import { useQueryClient } from '@tanstack/vue-query'
import { api, unwrap } from '../../api/client'
import { forget } from '../../api/queries'
import { useUnsent } from './useUnsent'

/** Drops a draft on the server and in this browser. What cannot be dropped stays on the desk. */
export function useDropDraft() {
  const client = useQueryClient()
  const { unstash } = useUnsent()
  return async (id: string) => {
    await unwrap(api.DELETE('/api/drafts/{id}', { params: { path: { id } } }))
    unstash(id)
    await forget(client, 'drafts')
  }
}
