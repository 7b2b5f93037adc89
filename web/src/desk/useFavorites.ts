import { useMutation, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, unwrap, type ViewSummary } from '../api/client'
import { forget, queries } from '../api/queries'

/** The favorites on one's desk: in an order of one's own, shared ones shown or put away. */
export function useFavorites() {
  const client = useQueryClient()
  const favorites = useQuery(queries.favorites())
  /** The order while it is being changed, before the server has it. */
  const order = ref<readonly string[] | null>(null)
  const all = computed(() => {
    const views = favorites.data.value?.views ?? []
    const place = (v: ViewSummary) => order.value?.indexOf(v.key) ?? 0
    return order.value ? [...views].sort((a, b) => place(a) - place(b)) : views
  })
  const shown = computed(() => all.value.filter((v) => !v.away))
  const away = computed(() => all.value.filter((v) => v.away))

  const arrange = useMutation({
    mutationFn: (keys: string[]) => unwrap(api.PUT('/api/favorites', { body: { keys } })),
    onError: () => (order.value = null),
    onSuccess: () => forget(client, 'favorites'),
  })
  const putAway = useMutation({
    mutationFn: ({ key, away }: { key: string; away: boolean }) =>
      unwrap(api.PUT('/api/favorites/{key}', { params: { path: { key } }, body: { away } })),
    onSuccess: () => forget(client, 'favorites'),
  })
  const drop = useMutation({
    mutationFn: (key: string) =>
      unwrap(api.PUT('/api/views/{key}/favorite', { params: { path: { key } }, body: { on: false } })),
    onSuccess: () => forget(client, 'favorites'),
  })
  /** Moves a favorite to the place of another; kept when it is let go. */
  function move(key: string, to: number) {
    const keys = shown.value.map((v) => v.key).filter((k) => k !== key)
    keys.splice(Math.max(0, Math.min(to, keys.length)), 0, key)
    order.value = [...keys, ...away.value.map((v) => v.key)]
  }
  function keep() {
    if (order.value) arrange.mutate([...order.value])
  }
  return {
    favorites,
    shown,
    away,
    move,
    keep,
    putAway,
    drop,
    trouble: computed(() => arrange.error.value ?? putAway.error.value ?? drop.error.value),
  }
}
