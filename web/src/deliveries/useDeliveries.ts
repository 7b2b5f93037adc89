import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { api, unwrap, type DeliveryTerms } from '../api/client'
import { forget, queries } from '../api/queries'

/** What is sent by itself, and what can be done with it. */
export function useDeliveries() {
  const client = useQueryClient()
  const list = useQuery({
    ...queries.deliveries(),
    // What is on its way is looked after.
    refetchInterval: (query) => (query.state.data?.deliveries.some((d) => d.waiting > 0) ? 1500 : false),
  })
  const again = () => forget(client, 'deliveries', 'letters')
  const at = (key: string) => ({ params: { path: { key } } })
  const save = useMutation({
    mutationFn: ({ key, view, terms }: { key?: string; view: string; terms: DeliveryTerms }) =>
      key
        ? unwrap(api.PUT('/api/deliveries/{key}', { ...at(key), body: terms }))
        : unwrap(api.POST('/api/deliveries', { body: { view, ...terms } })),
    onSuccess: again,
  })
  const pause = useMutation({
    mutationFn: ({ key, paused }: { key: string; paused: boolean }) =>
      unwrap(api.PUT('/api/deliveries/{key}/paused', { ...at(key), body: { paused } })),
    onSuccess: again,
  })
  const send = useMutation({
    mutationFn: ({ key, all }: { key: string; all?: boolean }) =>
      unwrap(api.POST('/api/deliveries/{key}/send', { ...at(key), body: { all } })),
    onSuccess: again,
  })
  const end = useMutation({
    mutationFn: (key: string) => unwrap(api.DELETE('/api/deliveries/{key}', at(key))),
    onSuccess: again,
  })
  const hand = useMutation({
    mutationFn: ({ key, to }: { key: string; to: number }) =>
      unwrap(api.PUT('/api/deliveries/{key}/owner', { ...at(key), body: { to } })),
    onSuccess: again,
  })
  const letLeave = useMutation({
    mutationFn: ({ key, allowed }: { key: string; allowed: boolean }) =>
      unwrap(api.PUT('/api/deliveries/{key}/sensitive', { ...at(key), body: { allowed } })),
    onSuccess: again,
  })
  const retry = useMutation({
    mutationFn: ({ key, letter }: { key: string; letter: number }) =>
      unwrap(api.POST('/api/deliveries/{key}/letters/{letter}/retry', { params: { path: { key, letter } } })),
    onSuccess: again,
  })
  const allowOutside = useMutation({
    mutationFn: (outside: string) => unwrap(api.PUT('/api/outside-addresses', { body: { outside } })),
    onSuccess: again,
  })
  return { list, again, save, pause, send, end, hand, letLeave, retry, allowOutside }
}
